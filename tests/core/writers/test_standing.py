"""Slices of any columns in any order, computed ones among them: each cell as it stands, against the csv module."""

from __future__ import annotations

import csv
import random
from collections.abc import Sequence
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from thoroughness import examples
from yardcut.core.cutlist.model import Cut, CutList, Line
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.session import Session
from yardcut.core.sources.formats import delimited
from yardcut.core.sources.spec import FormLine, SourceSpec
from yardcut.core.unattended import run_cut
from yardcut.core.writers.targets import RunOptions
from yardcut.core.writers.texts import own_texts, standing_rows

NAMES = ("id", "a", "b", "t", "c")
CELLS = st.text(st.sampled_from('0159.,-"\n NA= é'), max_size=5) | st.just("x" * 70)
ROWS = st.lists(st.tuples(CELLS, CELLS, CELLS, CELLS), min_size=1, max_size=25)
MADE = {"e": "id * 2", "f": "t || 'é,'", "g": "CASE WHEN id > 3 THEN t END"}
WANTED = st.lists(st.sampled_from([*NAMES, *MADE]), min_size=1, max_size=7, unique=True)


def saved(folder: Path, *lines: str) -> list[list[str]]:
    """Cut the source and return the slice as the csv module reads it; whatever its last rows look like, they are rows."""
    spec = SourceSpec((str(folder / "a.csv"),), (FormLine(footer=0),))
    session = Session(spec, CutList(spec.files, spec.lines, (Cut("", tuple(map(Line, lines))),)))
    session.open()
    run_cut(session, 0, RunOptions(folder / "o.csv", base=folder, replace=True), CancelToken(), Progress())
    with open(folder / "o.csv", newline="", encoding="utf-8") as file:
        return list(csv.reader(file))


def written(folder: Path, rows: Sequence[Sequence[str]]) -> None:
    with open(folder / "a.csv", "w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerows([NAMES, *rows])


@settings(max_examples=examples(120), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    rows=ROWS, wanted=WANTED, seed=st.integers(0, 99), ordered=st.booleans(),
    held=st.sampled_from([0, 40, 1 << 20]), at_once=st.sampled_from([1, 3, 1 << 14]),
)  # fmt: skip
def test_cells_of_any_columns_leave_as_they_came(
    tmp_path: Path, rows: list[tuple[str, ...]], wanted: list[str], seed: int, ordered: bool, held: int, at_once: int
) -> None:
    """Blocks of a few rows, texts in memory, on disk or in part, windows of a few rows."""
    numbered = [[str(number), a, b, "t" + t, c] for number, (a, b, t, c) in enumerate(rows, 1)]
    random.Random(seed).shuffle(numbered)
    written(tmp_path, numbered)
    lines = [f"make {name} = {MADE[name]}" for name in wanted if name in MADE]
    lines += ["columns " + ", ".join(wanted), *(["order id DESC"] if ordered and "id" in wanted else [])]
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(delimited, "_BLOCK_BYTES", 60)
        patch.setattr(own_texts, "_MOST_HELD_BYTES", held)
        patch.setattr(standing_rows, "_ROWS_AT_ONCE", at_once)
        found = saved(tmp_path, *lines)
    expected = sorted(numbered, key=lambda row: -int(row[0])) if lines[-1].startswith("order") else numbered
    assert found == [wanted, *([_cell(row, name) for name in wanted] for row in expected)]


def _cell(row: list[str], name: str) -> str:
    if name in NAMES:
        return row[NAMES.index(name)]
    return {"e": str(int(row[0]) * 2), "f": row[3] + "é,", "g": row[3] if int(row[0]) > 3 else ""}[name]


@pytest.mark.parametrize("ends", ["\n", "\r\n"])
def test_rows_that_reading_dropped_or_filled_are_cut_at_the_right_marks(tmp_path: Path, ends: str) -> None:
    rows = [[str(number), f"{number}.50", "a, b" if number % 7 else "", f"t{number}", "x"] for number in range(1, 40)]
    lines = [",".join(f'"{cell}"' if "," in cell else cell for cell in row) for row in [NAMES, *rows]]
    lines.insert(20, "1,2,3,4,5,6")
    lines.insert(9, "")
    lines.insert(5, ",,,,")
    (tmp_path / "a.csv").write_text(ends.join(lines) + ends, newline="")
    assert saved(tmp_path, "columns t, b, a")[1:] == [[row[3], row[2], row[1]] for row in rows]
    found = saved(tmp_path, "make twice = id * 2", "order id DESC")
    assert found[1:] == [[*row, str(int(row[0]) * 2)] for row in reversed(rows)]


def test_rows_without_any_cell_are_rows_when_they_are_read_again(tmp_path: Path) -> None:
    written(tmp_path, [["1", "", "", "t", "x"], ["2", "3", "", "t", "y"], ["3", "", "", "t", "z"]])
    assert saved(tmp_path, "columns b, a") == [["b", "a"], ["", ""], ["", "3"], ["", ""]]
    assert saved(tmp_path, "columns b") == [["b"], [""], [""], [""]]


def test_rows_drawn_several_times_are_written_as_often(tmp_path: Path) -> None:
    written(tmp_path, [[str(number), f"{number}.0", "", f"t{number}", ""] for number in range(20)])
    found = saved(tmp_path, "draw random 60 with replacement seed 4", "columns t, a", "order t")[1:]
    assert len(found) == 60
    assert all(a == f"{t[1:]}.0" for t, a in found)
    assert found == sorted(found, key=lambda row: row[0])
