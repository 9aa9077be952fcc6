"""Distributions have a scale, stand beside the figures where there is room; a count that changed is marked, for a moment."""

from __future__ import annotations

import itertools
from pathlib import Path

import pytest

from tui.driving import Driven, drive
from yardcut.tui.panels.list_panel import MARKED_SECONDS, ListPanel
from yardcut.tui.widgets.distribution import histogram, spaced


@pytest.fixture
def table(tmp_path: Path) -> Path:
    path = tmp_path / "a.csv"
    path.write_text("n,w\n" + "".join(f"{n % 50},{'ab'[n % 2]}\n" for n in range(1_000)))
    return path


@pytest.mark.long
def test_the_gauge_uses_a_wide_terminal_and_bounds_have_a_scale(table: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("1,000 rows")
        screen = await app.until("least 0 · average 24.5 · most 49", "quarter 12 · middle 24.5", "┤40 rows")
        lines = screen.split("\n")
        beside = next(line for line in lines if "quarter 12 ·" in line)
        scale = beside.partition("three quarters 37")[2].split()
        assert scale == ["0", "12", "24.5", "37", "49"]
        await app.resize(120, 30)
        await app.until("┤", gone=True)
        await app.press("v")
        screen = await app.until("n from … to …", "┤40 rows", "nothing is restricted yet")
        assert any(line.replace("│", "").split() == ["0", "12", "24.5", "37", "49"] for line in screen.split("\n"))
        await app.resize(80, 24)
        await app.until("n from … to …", "┤40 rows", "49")

    drive(table, steps, (220, 50))


@pytest.mark.long
def test_a_count_that_changed_is_marked_for_a_moment(table: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("1,000 rows")
        await app.line("keep n > 30", "would leave 380")
        await app.line("draw top 5 by n", "would leave 5")
        panel = app.app.screen.query_one(ListPanel)
        await app.until("380")
        assert not panel._changed  # new lines are seen as they are
        panel._mark_no_more = lambda: None  # type: ignore[method-assign] # as if the moment lasted
        await app.press("tab", "up", "plus")
        await app.until("360")
        assert panel._changed == {0}

    drive(table, steps)
    assert MARKED_SECONDS == 0.5


@pytest.mark.parametrize("width", [1, 3, 8, 20, 48])
def test_what_would_touch_another_on_the_scale_is_left_out(width: int) -> None:
    marks = [(0.0, "-12.5"), (1.0, "木材 1920"), (0.5, "700"), (0.25, "540"), (0.3, "695")]
    line = spaced(marks, width)
    assert len(line) <= width
    shown = [text for _, text in marks if text in line]
    rest = line
    for text in shown:
        rest = rest.replace(text, "", 1)
    assert not rest.strip()
    places = sorted((line.index(text), text) for text in shown)
    assert all(one + len(text) < two for (one, text), (two, _) in itertools.pairwise(places))


def test_an_empty_distribution_is_drawn_as_nothing() -> None:
    assert [line.plain.strip() for line in histogram((), 2)] == ["┤0 rows", ""]
    assert [line.plain for line in histogram((0, 9, 1), 2)] == [" █ ┤9 rows", " █▂"]
