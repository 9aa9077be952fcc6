"""The list survives the app: kept at every edit, told of at the next start, taken up with K."""

from __future__ import annotations

from pathlib import Path

import pytest

from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.core.cutlist.kept_lists import found_lists, lists_folder
from yardcut.tui.main.saving.autosaving import Keeping


@pytest.fixture
def packs(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    path = tmp_path / "packs.csv"
    write_packs(path, 300, 5)
    return path


def crash(packs: Path, monkeypatch: pytest.MonkeyPatch, *lines: str) -> None:
    """Write lines in an app that ends without leaving."""

    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        for number, line in enumerate(lines, 1):
            await app.line(line, f"(as line {number}")
        await app.settled()

    with monkeypatch.context() as dies:
        dies.setattr(Keeping, "end", lambda self: self._keeper._lock.let_go())
        drive(packs, steps)


@pytest.mark.long
def test_after_a_crash_it_is_offered_and_taken_up(packs: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    crash(packs, monkeypatch, "keep boards > 10", "draw first 7")

    async def steps(app: Driven) -> None:
        await app.until("before a list of 2 lines was saved; K takes it up")
        await app.press("K")
        await app.until("unsaved lists of this source", "1 keep boards > 10", "2 draw first 7", "1 edit before")
        await app.press("enter")
        await app.until("7 rows left", "u goes back to the one before")
        await app.press("u")
        await app.until("7 rows left", gone=True)
        await app.press("U")
        await app.until("7 rows left")
        await app.settled()
        assert len(list(lists_folder().iterdir())) == 1, "the one taken up is kept as this app's own"

    drive(packs, steps)

    async def again(app: Driven) -> None:
        await app.until("300 rows")
        assert "K takes it up" not in await app.settled(), "it was left knowingly"
        await app.press("K")
        await app.until("left unsaved")
        await app.press("down", "enter")
        await app.until("unsaved lists", gone=True)

    drive(packs, again)


@pytest.mark.long
def test_an_older_state_is_there_when_the_last_edit_does_the_harm(packs: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    crash(packs, monkeypatch, "keep boards > 10", "draw first 7")

    async def steps(app: Driven) -> None:
        await app.until("K takes it up")
        await app.press("K", "down", "enter")
        await app.until("as it was kept, 1 line")

    drive(packs, steps)


@pytest.mark.long
def test_one_is_forgotten_on_a_key_and_none_is_said_where_there_is_none(
    packs: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    crash(packs, monkeypatch, "keep boards > 10")

    async def steps(app: Driven) -> None:
        await app.until("K takes it up")
        await app.press("K")
        await app.until("unsaved lists of this source")
        await app.press("delete")
        await app.until("unsaved lists of this source", gone=True)
        await app.press("K")
        await app.until("no unsaved list of this source was kept")

    drive(packs, steps)
    assert found_lists() == []


def test_another_source_has_its_own(packs: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    crash(packs, monkeypatch, "keep boards > 10")
    other = tmp_path / "other.csv"
    write_packs(other, 40, 1)

    async def steps(app: Driven) -> None:
        await app.until("40 rows")
        assert "K takes it up" not in await app.settled()

    drive(other, steps)


def test_a_state_directory_that_takes_nothing_is_said_once(packs: Path, tmp_path: Path) -> None:
    (tmp_path / "state").write_text("in the way")

    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line("keep boards > 10")
        await app.until("the list is not kept against a crash", "with F4")
        await app.press("u")
        await app.until("rows left", gone=True)

    drive(packs, steps)
