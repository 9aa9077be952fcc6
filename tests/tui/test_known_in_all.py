"""What is known of all rows while they still come: estimated by places of the file, counted over columns read first."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from tui.driving import Driven
from tui.first_rows import OAK, ROWS, count, more_rows, rows_said, with_first_rows
from tui.gate import Gate
from yardcut.core.errors import SourceError
from yardcut.core.sources import columns_first, sampled_places
from yardcut.core.sources.spec import SourceSpec


def test_about_how_many_there_will_be_is_said_while_rows_come(
    gate: Gate, coming: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sampled_places, "_LEAST_BYTES", 1000)
    monkeypatch.setattr(sampled_places, "_PLACE_BYTES", 1 << 9)

    async def steps(app: Driven) -> None:
        await app.until("in all, by places of the file", "~3,000")
        await app.line("keep species = 'oak'")
        screen = await app.until("~1,200", "so far")  # two of five are oak
        assert len(re.findall("by places", screen)) == 2
        await app.line("keep ticket < 'T00500'")  # the file stands in their order
        screen = await app.until("2 keep", "so far")
        await app.line("keep boards > 60")
        assert len(re.findall("by places", await app.settled())) == 2
        gate.let(10**6)
        await app.until("so far", gone=True)
        assert "by places" not in await app.settled()

    with_first_rows(gate, coming, steps)


def test_the_columns_of_a_line_being_written_are_read_first(
    gate: Gate, coming: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """How many rows it leaves in all is known while the rest is still to be read; so are lines that look at no more."""
    monkeypatch.setattr(columns_first, "LARGE_BYTES", 1)
    monkeypatch.setattr(columns_first, "_LARGEST_PART", 1)
    both = f"{OAK} AND boards > 60"

    async def steps(app: Driven) -> None:
        await app.press("w")
        await app.until("cut ▸")
        await app.type("keep boards > 60")
        of_boards = f"{count(coming, ROWS, 'boards > 60'):,}"
        await app.until(f"{of_boards} of 3,000 in all", "so far")
        await app.press("enter")
        screen = await app.until("1 keep", "in all", of_boards)
        assert "so far" in screen
        await app.line("keep boards > 90")
        await app.until("2 keep", f"{count(coming, ROWS, 'boards > 90'):,}", "so far")
        await app.press("w")
        await app.until("cut ▸")
        await app.type("drop species <> 'oak' OR boards > 100")  # another column, beside the one that is there
        await app.until(f"{count(coming, ROWS, f'{OAK} AND boards > 90 AND boards <= 100'):,} of", "in all")
        await app.press("escape")
        await app.line(f"keep {both}")
        await app.until("3!keep", f"{count(coming, ROWS, f'{both} AND boards > 90'):,}", "so far")
        gate.let(10**6)
        await app.until("3,000 rows × 4 columns")
        await app.until("so far", gone=True)
        assert "in all" not in await app.settled()

    with_first_rows(gate, coming, steps)


@pytest.mark.long
def test_columns_that_cannot_be_read_first_are_left_alone(
    gate: Gate, coming: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What goes wrong there is asked for once, and the reading of all goes on."""
    asked = list[frozenset[str]]()

    def fail(spec: SourceSpec, names: frozenset[str], *given: object) -> None:
        asked.append(names)
        raise SourceError("no room")

    monkeypatch.setattr(columns_first, "LARGE_BYTES", 1)
    monkeypatch.setattr(columns_first, "read_first", fail)

    async def steps(app: Driven) -> None:
        await app.press("w")
        await app.until("cut ▸")
        await app.type("keep boards > 60")
        screen = await app.until("would leave")
        while not asked:
            await app.pause(0.05)
        await more_rows(gate, app, rows_said(screen))
        await app.pause(0.9)
        gate.let(10**6)
        await app.until("3,000 rows × 4 columns", f"would leave {count(coming, ROWS, 'boards > 60'):,} of 3,000")
        assert asked == [frozenset({"boards"})]

    with_first_rows(gate, coming, steps)
