"""All formats, in and out: how a file of each is told, read, written, and counted when it is read back.

Nobody else lists formats. What reads and writes one is named here and loaded when it is needed.
"""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import Any

from yardcut.core.quick_dataclasses import dataclass

CARRIED = "yardcut_list"
"""What the list that a slice remembers is called in it: a key of metadata, or a table of a database."""
RANGED = b"yardcut by ranges\n"
"""What the file begins with that stands for a Parquet file elsewhere, of which only what is wanted comes."""
_READERS, _WRITERS = "yardcut.core.sources.formats", "yardcut.core.writers.formats"
_ELSEWHERE = "yardcut.core.sources.elsewhere"


@dataclass(frozen=True, slots=True)
class Format:
    """One format. A function is named as ``module:function``; "" where there is none.

    To read: ``starts`` tells a file by its first (uncompressed) bytes; ``read`` opens its tables, given a path, a
    source and a token; ``tables`` lists those to choose from, ``look`` shows the first rows of one where opening takes
    long. ``fetch`` gets what stands elsewhere, before it is opened; ``come`` opens it while it comes.
    ``is_about`` names such a file in a sentence, ``takes``
    the lines of a source that apply to it, ``form_parts`` the parts of its form line (``None``: all).
    ``says_its_rows`` tells that its rows and kinds are known before its values, ``counts_at_once`` that a table's rows
    are.

    To write: ``write`` and ``count`` take a slice and a path; ``write_several`` writes several tables, called
    ``several``, with names of at most ``most_name_characters``; ``carried`` returns the list a slice remembers.
    ``delimiter`` is that of delimited text, which alone can go into a pipe; ``is_text`` tells the formats that can be
    compressed as a whole, ``is_joined`` those of which files behind each other, all but the first without a header, are
    one. A format is sent to other processes by its name.
    """

    name: str
    endings: tuple[str, ...]
    is_about: str
    starts: Callable[[bytes], bool]
    read: str
    takes: frozenset[str] = frozenset()
    form_parts: tuple[str, ...] | None = ()
    tables: str = ""
    look: str = ""
    fetch: str = ""
    come: str = ""
    says_its_rows: bool = False
    counts_at_once: bool = False
    write: str = ""
    count: str = ""
    delimiter: str = ""
    is_text: bool = False
    is_joined: bool = False
    write_several: str = ""
    several: str = "tables"
    carried: str = ""
    most_name_characters: int = 0

    @property
    def holds_several(self) -> bool:
        """True when one file holds several tables."""
        return bool(self.write_several)

    def __reduce__(self) -> tuple[Callable[[str], Format], tuple[str]]:
        return format_named, (self.name,)


def format_named(name: str) -> Format:
    """Return a format by its name. Raises ``KeyError``."""
    return FORMATS[name]


def function(named: str) -> Callable[..., Any]:
    """Return the function that a format names."""
    module, _, name = named.partition(":")
    found: Callable[..., Any] = getattr(import_module(module), name)
    return found


def _begins_with(*marks: bytes) -> Callable[[bytes], bool]:
    return lambda head: head.startswith(marks)


def mark_of_server(scheme: str) -> bytes:
    """Return what the file begins with that stands for a server, by what addresses of its kind begin with."""
    return f"yardcut elsewhere: {scheme}\n".encode()


def _body(head: bytes) -> bytes:
    return head.lstrip(b"\xef\xbb\xbf \t\r\n")


def _is_object(head: bytes) -> bool:
    start = _body(head)
    return start.startswith(b"{") and (b'"' in start[:200] or start[1:2] == b"}")


def _is_array(head: bytes) -> bool:
    start = _body(head)
    return start.startswith(b"[") and start[1:200].lstrip().startswith((b"{", b"]"))


_ROWS_OF_FORM = ("skip", "header", "footer")
_DELIMITED = {
    "is_about": "delimited text", "starts": lambda head: True, "read": f"{_READERS}.delimited:delimited_files",
    "takes": frozenset(["no value"]), "form_parts": None, "is_text": True, "is_joined": True,
    "write": f"{_WRITERS}.delimited:write_delimited", "count": f"{_WRITERS}.delimited:count_rows",
}  # fmt: skip
_JSON = {
    "is_about": "JSON", "read": f"{_READERS}.json_records:json_files", "takes": frozenset(["no value"]),
    "is_text": True,
}  # fmt: skip

FORMATS: dict[str, Format] = {
    form.name: form
    for form in (
        Format("csv", (".csv",), delimiter=",", **_DELIMITED),  # type: ignore[arg-type] # checked where it is used
        Format("tsv", (".tsv", ".tab"), delimiter="\t", **_DELIMITED),  # type: ignore[arg-type]
        Format(
            "parquet", (".parquet",), "Parquet", _begins_with(b"PAR1"), f"{_READERS}.parquet:parquet_files",
            says_its_rows=True, write=f"{_WRITERS}.parquet:write_parquet", count=f"{_WRITERS}.parquet:count_rows",
            carried=f"{_WRITERS}.parquet:carried_list",
        ),
        Format(
            "arrow", (".arrow", ".feather"), "Arrow", _begins_with(b"ARROW1"), f"{_READERS}.arrow:arrow_files",
            says_its_rows=True, write=f"{_WRITERS}.arrow:write_arrow", count=f"{_WRITERS}.arrow:count_rows",
            carried=f"{_WRITERS}.arrow:carried_list",
        ),
        Format(
            "jsonl", (".jsonl", ".ndjson"), starts=_is_object, write=f"{_WRITERS}.json_rows:write_lines",
            count=f"{_WRITERS}.json_rows:count_lines", is_joined=True, **_JSON,  # type: ignore[arg-type]
        ),
        Format(
            "json", (".json",), starts=_is_array, write=f"{_WRITERS}.json_rows:write_array",
            count=f"{_WRITERS}.json_rows:count_items", **_JSON,  # type: ignore[arg-type]
        ),
        Format(
            "xlsx", (".xlsx",), "a workbook", _begins_with(b"PK\x03\x04", b"\xd0\xcf\x11\xe0"),
            f"{_READERS}.workbook:worksheets", frozenset(["table", "cells", "no value"]), _ROWS_OF_FORM,
            tables=f"{_READERS}.workbook:worksheets_there", counts_at_once=True,
            write=f"{_WRITERS}.workbook:write_workbook", count=f"{_WRITERS}.workbook:count_rows",
            write_several=f"{_WRITERS}.workbook:write_worksheets", several="worksheets", most_name_characters=31,
            carried=f"{_WRITERS}.workbook:carried_list",
        ),
        Format(
            "sqlite", (".sqlite", ".sqlite3", ".db"), "a database", _begins_with(b"SQLite format 3\x00"),
            f"{_READERS}.sqlite:database_tables", frozenset(["table", "query", "no value"]),
            tables=f"{_READERS}.sqlite:tables_there", write=f"{_WRITERS}.database:write_database",
            count=f"{_WRITERS}.database:count_rows", write_several=f"{_WRITERS}.database:write_tables",
            most_name_characters=200, carried=f"{_WRITERS}.database:carried_list",
        ),
        Format(
            "parquet elsewhere", (), "Parquet", _begins_with(RANGED), f"{_ELSEWHERE}.ranged_parquet:parquet_there",
            says_its_rows=True,
        ),
        Format(
            "postgresql", (), "a database server", _begins_with(mark_of_server("postgresql")),
            f"{_ELSEWHERE}.postgresql:server_tables", frozenset(["table", "query", "key"]),
            tables=f"{_ELSEWHERE}.postgresql:tables_there",
            look=f"{_ELSEWHERE}.postgresql:look", fetch=f"{_ELSEWHERE}.postgresql:fetch",
            come=f"{_ELSEWHERE}.coming_tables:coming_table", says_its_rows=True,
        ),
    )
}  # fmt: skip
USUAL = FORMATS["csv"]
"""What a file is taken for that begins as none of the others do."""


def format_of(head: bytes) -> Format:
    """Return the format of a file by its first (uncompressed) bytes.

    >>> format_of(b'PAR1...').name, format_of(b'ticket,species').name
    ('parquet', 'csv')
    """
    told = (form for form in FORMATS.values() if not form.delimiter)
    return next((form for form in told if form.starts(head)), USUAL)


def format_by_ending(ending: str) -> Format | None:
    """Return the format that a path's ending (".csv", in small letters) says, to write.

    >>> format_by_ending('.ndjson').name
    'jsonl'
    """
    return next((form for form in written_formats() if ending in form.endings), None)


def written_formats() -> list[Format]:
    """Return the formats a slice can be written in, in the order in which they are offered."""
    return [form for form in FORMATS.values() if form.write]


def named_formats(joined: str = "or") -> str:
    """Return the names of all formats to write in a sentence."""
    *most, last = [form.name for form in written_formats()]
    return f"{', '.join(most)} {joined} {last}"
