"""``yardcut explain``: the three forms, where it goes, and what it refuses."""

from __future__ import annotations

from pathlib import Path

import pytest

from commands import assert_sentence, yardcut
from tui.driving import Driven, drive
from yardcut.core.sources.spec import SourceSpec


@pytest.fixture
def yard(tmp_path: Path) -> Path:
    (tmp_path / "a.csv").write_text(
        "id,species,price\n" + "".join(f"{n},{'oak' if n % 3 else 'ash'},{n}\n" for n in range(90))
    )
    (tmp_path / "l.cut").write_text(
        'yardcut 1\nsource "a.csv"\ndial best = 5\n\ncut "dear"\n  keep species = \'oak\'\n  draw top :best by price\n  save "o.csv"\n'
    )
    return tmp_path


def test_it_is_told_and_no_save_line_runs(yard: Path) -> None:
    done = yardcut("explain", "l.cut", "--set", "best=7", cwd=yard)
    assert done.returncode == 0, done.stderr
    for said in ("dear\n====", "a.csv: 90 rows and 3 columns were read.", "1. Of 90 rows 60 are kept: those where species is 'oak'.",
                 "30 rows: not species = 'oak'", "2. Of 60 rows 7 are taken: the 7 with the largest price.", "7 rows and 3 columns are left."):  # fmt: skip
        assert said in done.stdout
    assert not (yard / "o.csv").exists()
    assert yardcut("explain", "l.cut", "--as", "markdown", cwd=yard).stdout.startswith("# dear\n")
    for name, begins in (("o.html", "<!DOCTYPE html>"), ("o.md", "# dear"), ("o.txt", "dear\n")):
        assert yardcut("explain", "l.cut", "--out", name, cwd=yard).returncode == 0
        assert (yard / name).read_text().startswith(begins)
        assert_sentence(yardcut("explain", "l.cut", "--out", name, cwd=yard), 1, "exists")
    assert_sentence(yardcut("explain", "l.cut", "--out", "a.csv", "--replace", cwd=yard), 1, "is the source")


def test_the_app_writes_the_same(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("90 rows × 3 columns")
        await app.line("keep species = 'oak'", "would leave 60")
        await app.press("E")
        await app.until("explanation to ▸", ".html")
        await app.press("ctrl+u")
        await app.type(str(yard / "o.md"))
        await app.until("writes the cut explained")
        await app.press("enter")
        await app.until("wrote", "o.md")

    drive(SourceSpec(("a.csv",), (), yard), steps)
    assert "1. Of 90 rows 60 are kept: those where species is 'oak'. ([more](#more-1))" in (yard / "o.md").read_text()


@pytest.mark.long
def test_the_app_tells_no_half_of_a_cut(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("90 rows × 3 columns")
        await app.line("make half = price / 2", "(as line")
        await app.line("keep half > 3", "(as line")
        await app.press("tab", "up", "x")
        await app.until("wrong")
        await app.press("E")
        await app.until("explanation to ▸")
        await app.press("ctrl+u")
        await app.type(str(yard / "o.md"))
        await app.until("writes the cut explained")
        await app.press("enter")
        await app.until("not written", "line 2 is wrong")
        await app.press("escape", "Y", "end", "enter")
        await app.until("line 2 is wrong")

    drive(SourceSpec(("a.csv",), (), yard), steps)
    assert not (yard / "o.md").exists()
