"""A slice in several files: one for each combination of values, or for so many rows."""

from __future__ import annotations

from pathlib import Path

import pytest

from slices import cut
from yardcut.core.errors import TargetError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.session import Session
from yardcut.core.unattended.running_cuts import run_cut
from yardcut.core.writers import targets
from yardcut.core.writers.targets import RunOptions

SOURCE = "ticket,species,price,day,flag,n\n" + "".join(f"{n:03},oak,1,2031-03-01,true,{n}\n" for n in range(1, 6))


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "a.csv").write_text(SOURCE)
    return tmp_path


def test_one_file_for_each_value(folder: Path) -> None:
    (folder / "s.csv").write_text("species,n\noak,1\nOak,2\noak,3\n,4\na/b,5\n..,6\na-b,7\n")
    said = cut(folder, 'save "w-{species}.csv" one file per species header no', source="s.csv")
    found = {path.name: path.read_text() for path in folder.glob("w-*.csv")}
    assert found == {
        "w-oak.csv": "oak,1\noak,3\n", "w-Oak-2.csv": "Oak,2\n", "w-no-value.csv": ",4\n", "w-a-b.csv": "a/b,5\n",
        "w-empty.csv": "..,6\n", "w-a-b-2.csv": "a-b,7\n",
    }  # fmt: skip
    assert "wrote 6 files" in said[-1]
    assert "7 rows read back" in said[-1]
    cut(folder, 'save "by.tsv" one file per (n > 3)', source="s.csv")
    assert {path.name for path in folder.glob("by-*")} == {"by-false.tsv", "by-true.tsv"}


def test_one_file_for_each_combination_of_values(folder: Path) -> None:
    rows = [("oak", "A"), ("oak", "B"), ("Oak", "A"), ("", "A"), ("oak", "A"), ("a-b", "c"), ("a", "b-c")]
    (folder / "s.csv").write_text("species,grade\n" + "".join(f"{one},{other}\n" for one, other in rows))
    wanted: dict[str, list[tuple[str, str]]] = {}
    for species, grade in rows:
        name = {"oak": "oak", "Oak": "Oak-2", "": "no-value"}.get(species, species)
        wanted.setdefault(f"{grade}_{name}", []).append((species, grade))
    cut(folder, 'save "{grade}_{species}.csv" one file per species, grade header no', source="s.csv")
    found = {path.stem: path.read_text() for path in folder.glob("*_*.csv")}
    assert found == {name: "".join(f"{one},{other}\n" for one, other in some) for name, some in wanted.items()}
    cut(folder, "keep grade = 'A'", 'save "of.tsv" one file per grade, species', source="s.csv")
    assert {path.name for path in folder.glob("of-*")} == {"of-A-oak.tsv", "of-A-Oak-2.tsv", "of-A-no-value.tsv"}
    with pytest.raises(TargetError, match="gives several parts one name"):  # a-b with c, a with b-c
        cut(folder, 'save "all.csv" one file per species, grade', source="s.csv")


def test_one_file_for_so_many_rows(folder: Path) -> None:
    cut(folder, "columns ticket", 'save "p-{n}.csv" one file per 2 rows')
    assert [(folder / f"p-{n}.csv").read_text() for n in (1, 2, 3)] == [
        "ticket\n001\n002\n", "ticket\n003\n004\n", "ticket\n005\n",
    ]  # fmt: skip
    with pytest.raises(TargetError, match=r"p-1.csv, and 2 more, exist"):  # before anything runs
        cut(folder, "columns ticket", 'save "p-{n}.csv" one file per 2 rows')
    cut(folder, "keep FALSE", 'save "none.csv" one file per 2 rows')
    assert (folder / "none-1.csv").read_text() == "ticket,species,price,day,flag,n\n"


def test_files_of_two_slices_never_stand_in_one_place(folder: Path) -> None:
    cut(folder, "columns ticket", 'save "p-{n}.csv" one file per 2 rows')
    (folder / "p-x.csv").write_text("somebody's own")
    cut(folder, "columns ticket", "keep ticket > '003'", 'save "q-{n}.csv" one file per 2 rows')
    with pytest.raises(TargetError, match=r"p-2.csv, and 1 more, would stand among the files of this slice"):
        cut(folder, "keep ticket > '003'", 'save "p-{n}.csv" one file per 2 rows replace')
    assert (folder / "p-1.csv").read_text().endswith("002\n"), "nothing was replaced"
    cut(folder, 'save "p-{n}.csv" one file per 2 rows replace')
    assert (folder / "p-1.csv").read_text().startswith("ticket,species")


@pytest.mark.parametrize(
    ("save", "names"),
    [
        ("", {"slice-1.csv", "slice-2.csv"}),
        ('save "oak.tsv"', {"oak-1.tsv", "oak-2.tsv"}),
        ('save "elsewhere/oak.jsonl"', {"oak-1.jsonl", "oak-2.jsonl"}),
        ('save "p-{n}.csv" one file per 4 rows', {"p-1.csv", "p-2.csv"}),
        ('save "of.csv" one file per species', {"of-oak.csv"}),
    ],
)
def test_a_directory_is_filled_with_files(
    folder: Path, save: str, names: set[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(targets, "ROWS_OF_A_FILE", 3)
    (folder / "out").mkdir()
    (folder / "l.cut").write_text(f'yardcut 1\nsource "a.csv"\ncut "c"\n  columns ticket, species\n  {save}\n')
    session = Session.from_list(folder / "l.cut")
    session.open()
    report = run_cut(session, 0, RunOptions(folder / "out", base=folder), CancelToken(), Progress())
    assert {path.name for path in (folder / "out").iterdir()} == names
    assert report.rows_written == 5
