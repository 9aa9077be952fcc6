"""Guessing encodings, from what people really send."""

from __future__ import annotations

import zipfile
from pathlib import Path

import pytest

from yardcut.core.errors import SourceError
from yardcut.core.sources.form.encodings import guess_encoding
from yardcut.core.sources.opening_sources import open_table

TEXT = "Stapel,Länge\nBüche,1\nEiche,2\n"
PATH = Path("somewhere.csv")


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252"])
def test_an_encoding_is_found(tmp_path: Path, encoding: str) -> None:
    path = tmp_path / "t.csv"
    path.write_bytes(TEXT.encode(encoding))
    table = open_table(path)
    assert [column.name for column in table.columns] == ["Stapel", "Länge"]
    assert table.columns[0].slice(0, 2).texts() == ["Büche", "Eiche"]


def test_other_alphabets_are_found() -> None:
    words = "Древесина сушится под навесом, доски лежат ровно. " * 20
    assert guess_encoding(words.encode("cp1251"), PATH) == "cp1251"


def test_a_few_wrong_bytes_in_utf_8_are_mistakes(tmp_path: Path) -> None:
    path = tmp_path / "mixed.csv"
    path.write_bytes("a,b\né,1\n".encode() + "ü,2\n".encode("cp1252") + b"x,3\n")
    table = open_table(path)
    assert table.columns[0].slice(0, 3).texts() == ["é", "ü", "x"]
    assert any("line 3" in note for note in table.info.notes)


@pytest.mark.parametrize("each", [1, 2, 50])
def test_zero_bytes_in_cells_are_characters_and_counted(tmp_path: Path, each: int) -> None:
    rows = [f"some text{chr(0) if n % each == 0 else ''},{n}" for n in range(100)]
    path = tmp_path / "zero.csv"
    path.write_text("a,b\n" + "\n".join(rows) + "\n")
    table = open_table(path)
    assert table.columns[0].slice(0, 2).texts()[0] == "some text\0"
    assert any(f"{len(range(0, 100, each))} zero byte" in note for note in table.info.notes)


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"\x7fELF\x00\x01\x02", "a program"),
        (bytes(range(256)) * 4, "a binary file"),
        (b"\0" * 100, "a binary file"),
        (b"\x89PNG\r\n\x1a\n" + b"\0" * 9, r"a picture \(PNG\)"),
        (b"GIF89a\0\1", r"a picture \(GIF\)"),
        (b"%PDF-1.7\n", "a PDF document"),
        (b"a.csv".ljust(257, b"\0") + b"ustar\0", "a tar archive"),
    ],
)
def test_binary_files_say_what_they_look_like(content: bytes, said: str) -> None:
    with pytest.raises(SourceError, match=f"looks like {said}"):
        guess_encoding(content, PATH)


def test_a_text_may_begin_as_a_picture_does() -> None:
    assert guess_encoding(b"GIF8,RIFF\n1,2\n", PATH) == "utf-8"


def test_a_zip_archive_that_is_no_workbook_names_what_it_holds(tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "packed", "w") as archive:
        archive.writestr("yard.csv", "a,b\n1,2\n")
    with pytest.raises(SourceError, match="zip archive, which holds yard.csv"):
        open_table(tmp_path / "packed")
