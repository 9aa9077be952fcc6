"""A list that is saved changes nothing of what is saved next; and somebody else's edits of it are not written over."""

from __future__ import annotations

from pathlib import Path

import pytest

from tui.driving import Driven, drive
from yardcut.core.sources.spec import SourceSpec

SOURCE = "n,p,w\n" + "".join(f"{n},{n}.50,{'oak' if n % 2 else 'ash'}\n" for n in range(1, 60)) + "60,38.0,oak\n"


async def save(app: Driven, key: str, lead: str, path: Path, said: str, *, over: bool = False) -> None:
    await app.press(key)
    await app.until(lead)
    await app.press("ctrl+u")
    await app.type(str(path))
    await app.until("F5, then Enter writes over it" if over else "writes ")
    if over:
        await app.press("f5")
        await app.until("Enter writes over ")
    await app.press("enter")
    await app.until(said)


@pytest.mark.long
def test_saving_the_list_changes_nothing_of_the_next_slice(tmp_path: Path) -> None:
    """Lists get kind lines when they are saved; the cells were no longer written as they stand in the source."""
    (tmp_path / "a.csv").write_text(SOURCE)

    async def steps(app: Driven) -> None:
        await app.until("60 rows × 3 columns")
        await app.line("keep p > 20")
        await save(app, "ctrl+s", "save slice ▸", tmp_path / "one.csv", "wrote")
        await save(app, "f4", "save list ▸", tmp_path / "l.cut", "saved the list")
        await app.line("order n DESC")
        await save(app, "ctrl+s", "save slice ▸", tmp_path / "two.csv", "wrote")
        assert "another by now" not in app.screen()

    drive(tmp_path / "a.csv", steps)
    one, two = ((tmp_path / name).read_text().splitlines() for name in ("one.csv", "two.csv"))
    assert "60,38.0,oak" in one
    assert sorted(one) == sorted(two)
    assert "kind p number" in (tmp_path / "l.cut").read_text()


@pytest.mark.long
def test_a_list_that_somebody_else_changed_is_not_written_over_unasked(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text(SOURCE)
    path = tmp_path / "l.cut"
    path.write_text('yardcut 1\nsource "a.csv"\ncut "c"\n  keep n > 3\n')

    async def steps(app: Driven) -> None:
        await app.until("keep", "n > 3")
        path.write_text('yardcut 1\nsource "a.csv"\ncut "c"\n  keep n > 40\n')
        await app.line("keep n < 50")
        await app.press("f4")
        await app.until("was changed by somebody else since it was read", "F5, then Enter writes over it")
        await app.press("enter")
        assert "n > 40" in path.read_text()
        await app.press("f5")
        await app.until("Enter writes over ")
        assert "n > 40" in path.read_text()
        await app.press("enter")
        await app.until("saved the list")
        assert "n < 50" in path.read_text()
        await app.line("keep n < 45")
        await app.press("f4")
        await app.until("over the list as it was")
        await app.press("enter")
        await app.until("saved the list")

    drive(SourceSpec.of(path), steps)


def test_the_last_column_stays(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("n\n1\n2\n")

    async def steps(app: Driven) -> None:
        await app.until("2 rows × 1 column")
        await app.press("minus")
        await app.until("no column would be left")
        await app.press("c")
        await app.until("n ")
        await app.press("space")
        await app.until("no column would be left")

    drive(tmp_path / "a.csv", steps)
