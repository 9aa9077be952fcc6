"""The formats a slice can be written in: how each is written, and how it is counted when it is read back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from typing import Any


@dataclass(frozen=True, slots=True)
class Format:
    """One format, in a module of the room of formats that is loaded when it is needed.

    ``write_name`` and ``count_name`` are functions there. ``delimiter`` is that of delimited text, which alone can go
    into a pipe; ``is_text`` tells the formats that can be compressed as a whole. ``write_several_name`` is the function
    that writes several tables into one file, with names of at most ``most_name_characters``.
    """

    name: str
    endings: tuple[str, ...]
    module: str
    write_name: str
    count_name: str = "count_rows"
    delimiter: str = ""
    is_text: bool = False
    write_several_name: str = ""
    most_name_characters: int = 0

    @property
    def holds_several(self) -> bool:
        """True when one file holds several tables."""
        return bool(self.write_several_name)

    def function(self, name: str) -> Callable[..., Any]:
        """Return a function of its module."""
        found: Callable[..., Any] = getattr(import_module(f"yardcut.core.writers.formats.{self.module}"), name)
        return found


FORMATS = {
    form.name: form
    for form in (
        Format("csv", (".csv",), "delimited", "write_delimited", delimiter=",", is_text=True),
        Format("tsv", (".tsv", ".tab"), "delimited", "write_delimited", delimiter="\t", is_text=True),
        Format("parquet", (".parquet",), "parquet", "write_parquet"),
        Format("arrow", (".arrow", ".feather"), "arrow", "write_arrow"),
        Format("jsonl", (".jsonl", ".ndjson"), "json_rows", "write_lines", "count_lines", is_text=True),
        Format("json", (".json",), "json_rows", "write_array", "count_items", is_text=True),
        Format(
            "xlsx",
            (".xlsx",),
            "workbook",
            "write_workbook",
            write_several_name="write_worksheets",
            most_name_characters=31,
        ),
        Format(
            "sqlite",
            (".sqlite", ".sqlite3", ".db"),
            "database",
            "write_database",
            write_several_name="write_tables",
            most_name_characters=200,
        ),
    )
}
BY_ENDING = {ending: form.name for form in FORMATS.values() for ending in form.endings}


def named(names: str = "or") -> str:
    """Return the names of all formats in a sentence."""
    *most, last = FORMATS
    return f"{', '.join(most)} {names} {last}"
