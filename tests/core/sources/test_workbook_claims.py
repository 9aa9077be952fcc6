"""What a workbook claims to hold is a claim: no file ends the process, whatever it says or unpacks to."""

from __future__ import annotations

import subprocess
import sys
import threading
import time
import zipfile
from pathlib import Path

import openpyxl
import pytest

from yardcut.core.errors import SourceError, StoppedError
from yardcut.core.progress import CancelToken
from yardcut.core.sources.formats import workbook_process
from yardcut.core.sources.formats.inside import tables_inside
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import CellsLine, SourceSpec


def far_cell(path: Path) -> Path:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    for row in (["n", "w"], [1, "a"], [2, "b"]):
        sheet.append(row)
    sheet.cell(1_048_576, 16_384, "far")
    book.save(path)
    return path


def bomb(path: Path, megabytes: int) -> Path:
    """Return a small workbook whose worksheet unpacks to a lot."""
    far_cell(path)
    with zipfile.ZipFile(path) as whole:
        parts = {name: whole.read(name) for name in whole.namelist()}
    row = b'<row><c t="inlineStr"><is><t>' + b"x" * 4000 + b"</t></is></c></row>"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, content in parts.items():
            if not name.startswith("xl/worksheets/sheet"):
                packed.writestr(name, content)
        with packed.open("xl/worksheets/sheet1.xml", "w", force_zip64=True) as file:
            file.write(b'<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>')
            some = row * 250
            for _ in range(megabytes):
                file.write(some)
            file.write(b"</sheetData></worksheet>")
    return path


def test_a_cell_at_the_end_of_the_sheet_is_a_sentence(tmp_path: Path) -> None:
    path = far_cell(tmp_path / "far.xlsx")
    assert path.stat().st_size < 6000
    with pytest.raises(SourceError, match="row 1,048,576 and column 16,384.*cells 'A1:K900'"):
        open_table(path)


@pytest.mark.long
def test_the_cells_that_are_wanted_are_read_all_the_same(tmp_path: Path) -> None:
    path = far_cell(tmp_path / "far.xlsx")
    table = open_table(SourceSpec((str(path),), (CellsLine(None, "A1:B3"),)))
    assert [(column.name, table.rows) for column in table.columns] == [("n", 2), ("w", 2)]


def test_tables_of_such_a_workbook_are_still_named(tmp_path: Path) -> None:
    path = far_cell(tmp_path / "far.xlsx")
    book = openpyxl.load_workbook(path)
    book.create_sheet("more").append(["a"])
    book.save(path)
    assert [name for name, _ in tables_inside(path, SourceSpec.of(path))] == ["Sheet", "more"]


@pytest.mark.long
def test_a_workbook_that_unpacks_to_more_than_the_memory(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(workbook_process, "_MOST_BYTES", 100 << 20)
    monkeypatch.setattr(workbook_process, "_MOST_LOOKED_AT", 64 << 20)
    path = bomb(tmp_path / "bomb.xlsx", 200)
    assert path.stat().st_size < 5_000_000
    with pytest.raises(
        SourceError, match="takes more memory than a workbook may: a worksheet unpacks to more than 64 MB"
    ):
        open_table(path)


@pytest.mark.long
def test_a_limit_of_the_system_is_held_too(tmp_path: Path) -> None:
    path = far_cell(tmp_path / "far.xlsx")
    done = subprocess.run(
        ["bash", "-c", f"ulimit -v 1500000; {sys.executable} -m yardcut gauge {path}"],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 1
    assert "takes more memory than a workbook may" in done.stderr


@pytest.mark.parametrize(
    "damage", ["xl/workbook.xml", "xl/worksheets/sheet1.xml", "[Content_Types].xml", "xl/styles.xml"]
)
@pytest.mark.parametrize(
    "content",
    [
        b"",
        b"<a",
        b"\x00" * 400,
        b"<worksheet><sheetData><row r='99999999999999999999'><c r='ZZZZZZZ1'/></row></sheetData></worksheet>",
    ],
)
def test_what_the_package_cannot_take_is_a_sentence(tmp_path: Path, damage: str, content: bytes) -> None:
    book = openpyxl.Workbook()
    assert book.active is not None
    book.active.append(["n"])
    book.active.append([1])
    book.save(tmp_path / "good.xlsx")
    with zipfile.ZipFile(tmp_path / "good.xlsx") as good, zipfile.ZipFile(tmp_path / "bad.xlsx", "w") as bad:
        for name in good.namelist():
            bad.writestr(name, content if name == damage else good.read(name))
    try:
        open_table(tmp_path / "bad.xlsx")
    except SourceError as error:
        assert "bad.xlsx" in str(error)


@pytest.mark.long
def test_reading_a_workbook_can_be_stopped(tmp_path: Path) -> None:
    path = bomb(tmp_path / "large.xlsx", 300)
    token = CancelToken()
    threading.Timer(0.5, token.cancel).start()
    began = time.monotonic()
    with pytest.raises(StoppedError):
        open_table(path, token)
    assert time.monotonic() - began < 3
