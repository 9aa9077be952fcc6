"""Guessing encodings, from what people really send."""

from __future__ import annotations

from pathlib import Path

import pytest

from yardcut.core.errors import SourceError
from yardcut.core.sources.encodings import guess_encoding
from yardcut.core.sources.opening import open_table

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


def test_a_zero_byte_among_much_text_is_a_character(tmp_path: Path) -> None:
    path = tmp_path / "zero.csv"
    path.write_bytes(b"a,b\n" + b"some text,1\n" * 50 + b"x\0y,2\n")
    assert open_table(path).columns[0].slice(50, 51).texts() == ["x\0y"]


@pytest.mark.parametrize("content", [b"\x7fELF\x00\x01\x02", bytes(range(256)) * 4, b"\0" * 100])
def test_binary_files_are_none(content: bytes) -> None:
    with pytest.raises(SourceError, match="looks like a binary file"):
        guess_encoding(content, PATH)
