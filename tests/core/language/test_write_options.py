"""Options of a target, written as a save line has them and read again."""

from __future__ import annotations

from dataclasses import fields

import pytest

from yardcut.core.language.syntax.save_words import parse_save_words
from yardcut.core.language.write_options import WriteOptions

OTHER = WriteOptions(";", ",", "|", "cp1252", False, "all", "crlf", "-", True, None, None, None, True)


@pytest.mark.parametrize("name", [field.name for field in fields(WriteOptions)])
def test_each_is_said_by_itself_and_read_again(name: str) -> None:
    value = getattr(OTHER, name) or {"compression": "zstd", "group_rows": 5000, "table": "oak"}.get(name, False)
    options = WriteOptions(**{name: value})
    path = "x.parquet" if name in ("compression", "group_rows") else "x.xlsx" if name == "table" else "x.csv"
    assert options.text() != ""
    assert parse_save_words(f'"{path}"{options.text()}').options == options


def test_nothing_is_said_of_what_is_usual() -> None:
    assert WriteOptions().text() == ""
