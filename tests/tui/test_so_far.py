"""A source that is still being read: its first rows are worked on, said to be so, and never kept as a result."""

from __future__ import annotations

import random
import threading
from pathlib import Path

import pytest
from textual import events

from thoroughness import IS_LONG, some
from tui.driving import Driven, drive
from tui.first_rows import OAK, ROWS, count, more_rows, rows_said, with_first_rows
from tui.gate import Gate, gated
from tui.plain_truth import LINES, write_packs
from tui.watcher import Watcher
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.explaining.pattern_matches import Matches
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.tui.desk import moments
from yardcut.tui.desk.moment import Moment
from yardcut.tui.main.reading_source import Reading


def test_lines_are_counted_over_the_rows_so_far_and_over_all_at_the_end(gate: Gate, coming: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.line("keep species = 'oak' AND boards > 60")
        screen = await app.until("1 keep", "so far")
        for _ in range(3):
            first = rows_said(screen)
            expected = count(coming, first, "species = 'oak' AND boards > 60")
            assert f"{expected:,} rows left so far" in screen
            screen = await more_rows(gate, app, first)
        gate.let(10**6)
        expected = count(coming, ROWS, "species = 'oak' AND boards > 60")
        await app.until("3,000 rows × 4 columns", f"{expected:,} rows left")
        await app.until("so far", gone=True)

    with_first_rows(gate, coming, steps)


@pytest.mark.long
def test_a_line_being_written_is_tried_on_more_rows_as_they_come(gate: Gate, coming: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.press("w")
        await app.until("cut ▸")
        await app.type("keep boards > 60")
        screen = await app.until("would leave", "(as line 1)")
        first = rows_said(screen)
        screen = await more_rows(gate, app, first)
        now = rows_said(screen)
        assert f"would leave {count(coming, now, 'boards > 60'):,} of {now:,}" in screen
        gate.let(10**6)
        expected = count(coming, ROWS, "boards > 60")
        screen = await app.until(f"would leave {expected:,} of 3,000")
        assert "keep boards > 60" in screen
        await app.press("enter")
        await app.until("cut ▸", gone=True)
        await app.until(f"{expected:,} rows left")

    with_first_rows(gate, coming, steps)


def test_a_save_waits_for_all_of_the_file_and_is_asked_then(gate: Gate, coming: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.line("keep boards > 60")
        await app.press("ctrl+s")
        await app.until("that waits until all of it is read")
        assert "save slice" not in app.screen()
        gate.let(10**6)
        screen = await app.until("save slice ▸")
        assert f"writes {count(coming, ROWS, 'boards > 60'):,} rows" in screen

    with_first_rows(gate, coming, steps)
    assert not list(coming.parent.glob("*slice*"))


@pytest.mark.long
@pytest.mark.few(2)
@pytest.mark.parametrize("key", ["ctrl+s", "f4", "E", "Y", "A"])
def test_nothing_that_is_so_far_is_kept_as_a_result(gate: Gate, coming: Path, key: str) -> None:
    async def steps(app: Driven) -> None:
        await app.line("keep boards > 60")
        await app.press(key)
        await app.until("that waits until all of it is read")
        assert len(app.app.screen_stack) == 1
        await app.press("escape")
        await app.until("will not be done")
        gate.let(10**6)
        await app.until("3,000 rows × 4 columns")
        assert len(app.app.screen_stack) == 1
        assert "▸" not in await app.settled()

    with_first_rows(gate, coming, steps)
    assert [path.name for path in coming.parent.iterdir()] == ["yard.csv"]


@pytest.mark.long
def test_a_card_says_of_which_rows_its_figures_are_and_saves_none_of_them(gate: Gate, coming: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.press("g")
        await app.type("species")
        await app.press("enter")
        await app.press("v")
        screen = await app.until("values of species", "oak")
        first = rows_said(screen)
        assert f"values of species, the source, so far, of the first {first:,} rows" in screen
        await app.press("w")
        await app.until("that waits: these figures are so far")
        gate.let(10**6)
        await app.until("3,000 rows × 4 columns", "all of it is read now: open this again")
        await app.press("w")
        screen = await app.until("open this again when all of it is read")
        await app.press("escape")
        await app.press("v")
        screen = await app.until("values of species, the source")
        assert "so far" not in screen

    with_first_rows(gate, coming, steps)


@pytest.mark.long
def test_a_card_that_follows_its_line_has_the_figures_of_all_rows_when_they_are_there(gate: Gate, coming: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.line("keep species = 'oak' AND boards > 60")
        await app.press("tab", "r")
        screen = await app.until("line 1: keep what is true of", "so far, of the first")
        first = rows_said(screen)
        await app.until(f"{count(coming, first, 'boards > 60'):,}")
        gate.let(10**6)
        await app.until("3,000 rows × 4 columns")
        await app.until(f"{count(coming, ROWS, 'boards > 60'):,}", f"{count(coming, ROWS, OAK):,}")
        await app.until("so far", gone=True)
        card = app.screen().split("line 1: keep what is true of")[1]
        assert f"{count(coming, first, 'boards > 60'):,} " not in card

    with_first_rows(gate, coming, steps)


@pytest.mark.long
def test_an_offcut_stays_looked_at_while_rows_come(gate: Gate, coming: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.line("keep boards > 60")
        await app.press("o")
        screen = await app.until("offcut of line 1")
        first = rows_said(screen)
        screen = await more_rows(gate, app, first)
        now = rows_said(screen)
        assert f"offcut of line 1: {now - count(coming, now, 'boards > 60'):,} rows" in screen

    with_first_rows(gate, coming, steps)


@pytest.mark.long
def test_the_reading_is_stopped_by_two_strokes_and_leaves_a_part(gate: Gate, coming: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.line("keep boards > 60")
        await app.press("escape")
        await app.until("again stops it, and keeps what was read")
        await app.press("escape")
        gate.let(1)
        await app.until("only a part was read: the first", "1 keep")
        await app.until("so far", gone=True)
        await app.press("ctrl+s")
        await app.until("save slice ▸")

    with_first_rows(gate, coming, steps)


@pytest.mark.long
def test_a_reading_that_fails_leaves_the_list_and_says_so(gate: Gate, coming: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.line("keep boards > 60")
        gate.fail(OSError(28, "No space left on device"))
        await app.until("not read to its end", "1 keep")
        await app.press("ctrl+s")
        await app.until("the source was not read to its end: R reads it again")
        gate.failing = None
        gate.let(10**6)
        await app.press("R")
        await app.until("3,000 rows × 4 columns", f"{count(coming, ROWS, 'boards > 60'):,} rows left")

    with_first_rows(gate, coming, steps)


@pytest.mark.long
def test_a_save_asked_for_while_the_last_rows_are_counted_is_not_forgotten(
    gate: Gate, coming: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """All of the file is read, and its lines are being counted: what is put off then is done all the same."""
    counting, go_on = threading.Event(), threading.Event()
    plain = moments.on_table

    def slow(moment: Moment, table: Table, executor: Executor, patterns: Matches) -> Moment:
        if table.share_read == 1:
            counting.set()
            go_on.wait(20)
        return plain(moment, table, executor, patterns)

    monkeypatch.setattr(moments, "on_table", slow)

    async def steps(app: Driven) -> None:
        try:
            await app.line("keep boards > 60")
            gate.let(10**6)
            for _ in range(2000):
                if not counting.is_set():
                    await app.pause(0.01)
            assert counting.is_set()
            await app.press("ctrl+s")
            await app.until("that waits until all of it is read")
        finally:
            go_on.set()
        await app.until("save slice ▸", f"writes {count(coming, ROWS, 'boards > 60'):,} rows")

    with_first_rows(gate, coming, steps)


def test_a_list_edited_while_the_last_rows_come_is_counted_as_it_is_then(gate: Gate, coming: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.line("keep boards > 60")
        gate.let(10**6)
        await app.press("u", "U", "x")
        await app.until("3,000 rows × 4 columns")
        await app.press("x")
        await app.until(f"{count(coming, ROWS, 'boards > 60'):,} rows left")

    with_first_rows(gate, coming, steps)


@pytest.mark.long
def test_a_line_about_the_source_reads_it_anew_while_it_is_read(gate: Gate, coming: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.press("w")
        await app.until("cut ▸")
        await app.type("kind boards text")
        await app.press("enter")
        await app.until("reading the source again")
        await app.press("ctrl+s")
        await app.until("that waits until all of it is read")
        gate.let(10**6)
        await app.until("3,000 rows × 4 columns", "save slice ▸")
        await app.until("so far", gone=True)

    with_first_rows(gate, coming, steps)


@pytest.mark.parametrize("seed", some(range(12), 1))
def test_every_figure_is_true_of_the_rows_it_names_while_rows_come(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path, seed: int
) -> None:
    rows, rng = write_packs(tmp_path / "packs.csv", 900, seed), random.Random(seed)
    keys = [
        "up",
        "down",
        "left",
        "right",
        "pagedown",
        "home",
        "end",
        "tab",
        "tab",
        "x",
        "delete",
        "u",
        "U",
        "o",
        "ctrl+g",
    ]

    async def steps(app: Driven) -> None:
        await app.until("packs.csv")
        gate.let(3)
        await app.until("so far, of the first")
        watcher = Watcher(app, rows)
        take = app.app.dispatcher.take  # type: ignore[attr-defined]
        for _ in range(40 if IS_LONG else 16):
            if rng.random() < 0.3:
                gate.let(rng.randrange(1, 3))
            if rng.random() < 0.3 and len(watcher.texts) < 6:
                for key in ("ctrl+g", "w"):
                    take(events.Key(key, key if len(key) == 1 else None))
                take(events.Paste(rng.choice([line for line in LINES if "weight" not in line])))
                await app.pause(rng.choice([0, 0.05]))
                take(events.Key("enter" if rng.random() < 0.8 else "escape", None))
            else:
                key = rng.choice(keys)
                take(events.Key(key, key if len(key) == 1 else None))
            await (app.settled() if rng.random() < 0.3 else app.pause(rng.choice([0, 0.02])))
            watcher.check()
        gate.let(10**6)
        await app.until("900 rows × 5 columns")
        await app.settled()
        watcher.check()
        assert watcher.seen["gauge"]

    monkeypatch.setattr(Reading, "_is_stop_asked", lambda self: False)
    with gated(monkeypatch, 1500) as gate:

        async def go(app: Driven) -> None:
            try:
                await steps(app)
            finally:
                gate.let(10**6)

        drive(SourceSpec(("packs.csv",), (), tmp_path), go)
