"""Many columns: few files in the store, the same values whether arrays stay in memory or go to files of their own."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from thoroughness import some
from yardcut.core.errors import SourceError, StoreDamagedError
from yardcut.core.sources.form.delimited_form import read_head
from yardcut.core.sources.form.guessing_form import guess_form
from yardcut.core.sources.formats import delimited
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.store import store_parts
from yardcut.core.sources.store.store_parts import StoreParts
from yardcut.core.table import array_file
from yardcut.core.table.array_file import ArrayWriter, Budget
from yardcut.core.table.checking import CheckedArray


def cell(column: int, row: int) -> str:
    if (column * 7 + row) % 11 == 0:
        return ""
    return [
        str(row * column), f"{row / (column + 3):.4f}", f"w{row % 5}", f"2031-03-{row % 28 + 1:02}", f"t{row}-{column}",
        ["true", "false"][row % 2], f"0{row}",
    ][column % 7]  # fmt: skip


def written(path: Path, columns: int, rows: int) -> list[list[str]]:
    cells = [[cell(column, row) for column in range(columns)] for row in range(rows)]
    lines = [",".join(f"c{column}" for column in range(columns)), *map(",".join, cells)]
    path.write_text("\n".join(lines) + "\n")
    return cells


@pytest.mark.long
@pytest.mark.few(2)
@pytest.mark.parametrize("memory", some([0, 1 << 26, 1 << 12], 2))
@pytest.mark.parametrize(("columns", "rows"), [(400, 40), (3, 900)])
def test_every_value_of_every_column(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, memory: int, columns: int, rows: int
) -> None:
    monkeypatch.setattr(store_parts, "_MEMORY_BYTES", memory)
    monkeypatch.setattr(StoreParts.__init__, "__defaults__", (memory,))
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", 1 << 13)
    monkeypatch.setattr(delimited, "_BLOCK_BYTES_PER_COLUMN", 16)
    cells = written(tmp_path / "wide.csv", columns, rows)
    for table in (open_table(tmp_path / "wide.csv"), open_table(tmp_path / "wide.csv")):
        for number, column in enumerate(table.columns):
            wanted = [row[number] for row in cells]
            found = ["" if text is None else text for text in column.slice(0, rows).texts()]
            if column.kind == "number":
                assert [text and float(text) for text in found] == [text and float(text) for text in wanted]
            else:
                assert found == wanted
            assert column.info.missing == wanted.count("")
            taken = column.take(np.array([rows - 1, 0])).texts()
            assert [text is None for text in taken] == [not wanted[-1], not wanted[0]]


@pytest.mark.long
def test_thousands_of_columns_share_a_file(tmp_path: Path) -> None:
    written(tmp_path / "wide.csv", 3000, 3)
    table = open_table(tmp_path / "wide.csv")
    assert len(table.columns) == 3000
    assert len(list(table.folder.iterdir())) <= 3
    assert all(path.stat().st_mode & 0o077 == 0 for path in table.folder.iterdir())


@pytest.mark.parametrize("limit", [0, 30, 1 << 20])
def test_an_array_is_the_same_in_memory_and_in_a_file(tmp_path: Path, limit: int) -> None:
    writer = ArrayWriter(tmp_path / "a", "<i8", narrow=True, budget=Budget(limit))
    wanted: list[int] = []
    for items in ([1, 2], [300], [], [-70_000, 5], [1 << 40]):
        writer.append(np.array(items, dtype=np.int64))
        wanted += items
        assert writer.items().tolist() == wanted
    writer.fill(7, 3)
    assert writer.items().tolist() == [*wanted, 7, 7, 7]
    assert writer.in_file == (limit < 1000)
    writer.drop()
    assert not (tmp_path / "a").exists()


def test_arrays_of_a_pack_are_checked_each_by_itself(tmp_path: Path) -> None:
    parts = StoreParts(tmp_path)
    for number in range(3):
        parts.writer(number, "values", "<i4").append(np.arange(number + 1, dtype=np.int32))
        parts.put(number, "words", b"oak" * number)
    checks = parts.seal(range(3))
    for number in range(3):
        by_part = {check.part: check for check in checks[number]}
        check = by_part["values"]
        found = CheckedArray(tmp_path / check.pack, "<i4", number + 1, check).checked()
        assert found.tolist() == list(range(number + 1))
        assert ("words" in by_part) == (number > 0)


def test_a_header_longer_than_what_is_looked_at_first(tmp_path: Path) -> None:
    names = [f"a_name_of_some_length_{number}" for number in range(20_000)]
    lines = [",".join(names), *(",".join(str(row) for _ in names) for row in range(3))]
    (tmp_path / "wide.csv").write_text("\n".join(lines) + "\n")
    form = guess_form(tmp_path / "wide.csv", read_head(tmp_path / "wide.csv"))
    assert (form.width, form.header, form.skip) == (20_000, 1, 0)


@pytest.mark.long
def test_columns_of_one_file_take_one_open_file(tmp_path: Path) -> None:
    """Thousands of columns were said to be damaged where the system allows few open files."""
    written(tmp_path / "a.csv", 3000, 4)
    command = f"ulimit -n 100; {sys.executable} -m yardcut cut a.csv -q -l 'make n = COUNT OF (all)' -l 'keep ANY OF (all) > 5' -l 'columns n'"
    done = subprocess.run(["bash", "-c", command], cwd=tmp_path, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert done.stdout.startswith("n\n27"), done.stderr


def test_too_many_open_files_are_no_damage(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    written(tmp_path / "a.csv", 3, 9)
    table = open_table(tmp_path / "a.csv")

    def none_left(*given: object) -> None:
        raise OSError(24, "Too many open files")

    monkeypatch.setattr(array_file, "open", none_left, raising=False)
    with pytest.raises(SourceError, match="Too many open files") as met:
        table.columns[0].slice(0, 9)
    assert not isinstance(met.value, StoreDamagedError)
    monkeypatch.undo()
    assert len(table.columns[0].slice(0, 9)) == 9
