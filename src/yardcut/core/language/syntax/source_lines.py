"""The sub-lines of a source: reading them, and writing them again."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from lark import Token, Transformer

from yardcut.core.errors import ListError, Mend
from yardcut.core.language.syntax.building_expressions import name_in, unquote
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.language.syntax.refusing import read, refused
from yardcut.core.language.syntax.statements import without_comments
from yardcut.core.sources.kinds.declared import parser_of
from yardcut.core.sources.spec import (
    CallLine,
    CellsLine,
    DeclaredKind,
    FileColumnLine,
    FormLine,
    KeyLine,
    KindLine,
    NoValueLine,
    OnlyLine,
    QueryLine,
    Selector,
    SubLine,
    TableLine,
)
from yardcut.core.values.formatting import quote_name, quote_text
from yardcut.core.values.kinds import Kind

WORDS = ("form", "no", "kind", "call", "only", "table", "all", "cells", "query", "key", "file")
"""The words a sub-line may start with."""
FURTHER = "source"
"""The word of a further source."""
FURTHER_FORM = 'source "file" AS name, and below it lines such as table, kind, form'
FURTHER_EXAMPLE = 'source "mills.xlsx" AS mills'

_OWN_WORDS = frozenset(
    {*WORDS, "in", "value", "tables", "serial", "unix", "ms", "yes", "header", "footer", "skip", *Kind}
)

FORMS = {
    "form": "form [delimiter ';'] [decimal ','] [thousands '.'] [encoding 'cp1252'] [comment '#'] [skip 2] [header no] "
            "[footer 1]",
    "no": "no value 'text', … [in column]",
    "kind": "kind column text | integer | number | boolean 'J', 'N' | date 'DD.MM.YYYY' | …",
    "call": "call column name", "only": "only column, column_*, …", "table": "table 'worksheet or table', …",
    "all": "all tables", "cells": "cells 'B4' or 'B4:K900'", "query": "query 'select …'",
    "key": "key column, …", "file": "file column name",
}  # fmt: skip
"""What each sub-line takes."""

_EXAMPLES = {
    "form": "form delimiter ';' decimal ',' header no", "no": "no value '', '--' in moisture_d07",
    "kind": "kind felled_on date 'DD.MM.YYYY', ticket text", "call": 'call "Holzart" species in "yard_2029.csv"',
    "only": "only ticket, moisture_*", "table": "table 'packs'", "all": "all tables", "cells": "cells 'B4'",
    "query": "query 'select * from packs'", "key": "key ticket", "file": "file column from_file",
}  # fmt: skip


_MEANINGS = {
    "form": "how delimited text is written", "no": "the texts that mean a missing value", "kind": "what columns hold",
    "call": "call OLD NEW: the column OLD is called NEW here", "only": "read these columns and no others",
    "table": "which worksheets or tables are read, stacked", "all": "all worksheets or tables, stacked",
    "cells": "where a worksheet's data stand", "query": "a query on a database",
    "key": "what tells the rows of a server's table apart, and gives their order",
    "file": "a column with each row's file",
}  # fmt: skip
_FORM_MEANINGS = {
    "delimiter": "what stands between cells", "decimal": "the decimal mark", "thousands": "the mark between thousands",
    "quote": "what stands around cells", "encoding": "how characters are written", "comment": "how comments begin",
    "skip": "lines above the header that are none of the table", "header": "how many header rows there are",
    "footer": "rows at the end that are none of the table; 0 keeps them all",
}  # fmt: skip


def meaning(text: str) -> str:
    """Say in a few words what a sub-line, or the beginning of one, says; "" for anything else."""
    words = text.lower().split(None, 2)
    if not words or words[0] not in _MEANINGS:
        return ""
    if words[0] == "form" and len(words) > 1:
        return _FORM_MEANINGS.get(words[1], _MEANINGS["form"])
    return _MEANINGS[words[0]]


def is_sub_line(text: str) -> bool:
    """Tell whether a text being written is a source's sub-line rather than a line of a cut."""
    words = text.split(None, 1)
    return bool(words) and words[0].lower() in WORDS


@lru_cache(maxsize=1024)
def parse_sub_line(text: str) -> SubLine:
    """Read one sub-line. Raises ``ListError`` with offsets into ``text``."""
    bare = without_comments(text)
    word = bare.split(None, 1)[0].lower() if bare.split() else ""
    example = _EXAMPLES.get(word, _EXAMPLES["form"])
    found: SubLine = read(
        bare, _Builder().transform, lambda error: refused(bare, error, "here", example), name="source", start="sub_line"
    )
    return found


def _number(token: Token, written: str) -> int:
    if len(written) > _MOST_NUMBER_DIGITS:
        raise ListError("no file has so many", start=token.start_pos or 0, end=token.end_pos or 0)
    return int(written)


_MOST_NUMBER_DIGITS = 9


class _Builder(Transformer[Token, Any]):
    """From the grammar's tree to sub-lines; a method is named after its rule."""

    def sub_line(self, items: list[Any]) -> SubLine:
        line: SubLine = items[0]
        return line

    def one(self, items: list[Token]) -> str | int:
        token = items[0]
        if token.type == "HASH":
            return _number(token, token[1:])
        return name_in(token)

    def selector(self, items: list[Any]) -> Selector:
        if isinstance(items[0], Token):
            return Selector(str(items[0]), is_pattern=True)
        return Selector(items[0], items[1] if len(items) > 1 else None)

    def in_file(self, items: list[Token]) -> dict[str, str]:
        return {"file": unquote(items[0])}

    def __default__(self, data: str, children: list[Token], meta: object) -> dict[str, Any]:
        """Build a part of a form that is one character."""
        token = children[0]
        text = unquote(token).replace("\\t", "\t")
        if len(text) > 1 or (not text and data not in ("thousands", "comment")):
            raise ListError(f"{data} takes one character", start=token.start_pos or 0, end=token.end_pos or 0)
        if data in ("delimiter", "quote", "decimal") and not text.isascii():
            raise ListError(
                f"{data} takes a character of ASCII: {text} is written in more than one byte",
                start=token.start_pos or 0, end=token.end_pos or 0,
                mend=Mend("put another in its place in the file"),
            )  # fmt: skip
        return {str(data): text}

    def encoding(self, items: list[Token]) -> dict[str, Any]:
        return {"encoding": unquote(items[0])}

    def skip(self, items: list[Token]) -> dict[str, Any]:
        return {"skip": _number(items[0], items[0])}

    def footer(self, items: list[Token]) -> dict[str, Any]:
        return {"footer": _number(items[0], items[0])}

    def header(self, items: list[Token]) -> dict[str, Any]:
        token = items[0]
        rows = _number(token, token) if token.type == "NUMBER" else int(token.type == "YES")
        if rows > 9:
            raise ListError("a header has nine rows at most", start=token.start_pos or 0, end=token.end_pos or 0)
        return {"header": rows}

    def form(self, items: list[dict[str, Any]]) -> FormLine:
        merged: dict[str, Any] = {}
        for item in items:
            merged |= item
        return FormLine(**merged)

    def no_value(self, items: list[Any]) -> NoValueLine:
        texts = tuple(unquote(item) for item in items if isinstance(item, Token))
        where = items[-1] if isinstance(items[-1], Selector) else None
        if where is not None and where.last is None and isinstance(where.first, str) and "." in where.first:
            return NoValueLine(where.first, texts)
        return NoValueLine(None, texts, where)

    def how(self, items: list[Token]) -> tuple[str, ...]:
        if items[0].type == "TEXT":
            return (unquote(items[0]),)
        return (" ".join(str(item).lower() for item in items),)

    def kind_part(self, items: list[Any]) -> Any:
        if isinstance(items[0], Token):
            return unquote(items[0])
        return items[0], Kind(items[1].lower()), items[2] if len(items) > 2 else ()

    def kind(self, items: list[Any]) -> KindLine:
        file = items[-1]["file"] if isinstance(items[-1], dict) else None
        found: list[tuple[Selector, DeclaredKind]] = []
        for item in items:
            if isinstance(item, str):
                if not found or found[-1][1].kind is not Kind.BOOLEAN or len(found[-1][1].patterns) != 1:
                    raise ListError(f"{quote_text(item)} belongs to no kind", mend=Mend("write: boolean 'J', 'N'"))
                selector, known = found[-1]
                found[-1] = (selector, DeclaredKind(Kind.BOOLEAN, (*known.patterns, item)))
            elif isinstance(item, tuple):
                found.append((item[0], DeclaredKind(item[1], item[2])))
        for _, declared in found:
            _check(declared)
        return KindLine(file, tuple(found))

    def call(self, items: list[Any]) -> CallLine:
        token = items[1]
        name = name_in(token)
        return CallLine(items[2]["file"] if len(items) > 2 else None, items[0], name)

    def only(self, items: list[Any]) -> OnlyLine:
        return OnlyLine(_file(items), tuple(item for item in items if isinstance(item, Selector)))

    def table(self, items: list[Any]) -> TableLine:
        return TableLine(_file(items), tuple(unquote(item) for item in items if isinstance(item, Token)))

    def cells(self, items: list[Any]) -> CellsLine:
        return CellsLine(_file(items), unquote(items[0]))

    def query(self, items: list[Any]) -> QueryLine:
        return QueryLine(_file(items), unquote(items[0]))

    def key(self, items: list[Any]) -> KeyLine:
        return KeyLine(_file(items), tuple(name_in(item) for item in items if isinstance(item, Token)))

    def file_column(self, items: list[Token]) -> FileColumnLine:
        return FileColumnLine(None, name_in(items[0]))


def _file(items: list[Any]) -> str | None:
    return items[-1]["file"] if items and isinstance(items[-1], dict) else None


def _check(declared: DeclaredKind) -> None:
    """Refuse patterns a kind does not take. Raises ``ListError``."""
    kind, patterns = declared.kind, declared.patterns
    if not patterns:
        return
    if kind is Kind.BOOLEAN:
        if len(patterns) != 2 or patterns[0] == patterns[1]:
            raise ListError("a boolean takes two different texts", mend=Mend("write: boolean 'J', 'N'"))
    elif not kind.is_temporal:
        raise ListError(f"{kind} takes no pattern", mend=Mend("patterns are for date and timestamp"))
    else:
        parser_of(declared, ".")


def sub_line_text(line: SubLine) -> str:
    """Write a sub-line as it would be typed."""
    match line:
        case FormLine():
            parts = [
                f"{part} {quote_text(value)}"
                for part in ("delimiter", "decimal", "thousands", "quote", "encoding", "comment")
                if (value := getattr(line, part)) is not None
            ]
            if line.skip is not None:
                parts.append(f"skip {line.skip}")
            if line.footer is not None:
                parts.append(f"footer {line.footer}")
            if line.header is not None:
                parts.append("header " + {0: "no", 1: "yes"}.get(line.header, str(line.header)))
            said = "form " + " ".join(parts)
        case NoValueLine():
            said = "no value " + ", ".join(map(quote_text, line.texts))
            if line.columns is not None:
                said += f" in {_selector_text(line.columns)}"
        case KindLine():
            said = "kind " + ", ".join(f"{_selector_text(item)} {_kind_text(kind)}" for item, kind in line.items)
        case CallLine():
            said = f"call {_selector_text(line.column)} {_name_text(line.name)}"
        case OnlyLine():
            said = "only " + ", ".join(map(_selector_text, line.columns))
        case TableLine():
            said = "table " + ", ".join(map(quote_text, line.names)) if line.names else "all tables"
        case CellsLine():
            said = f"cells {quote_text(line.cells)}"
        case QueryLine():
            said = f"query {quote_text(line.query)}"
        case KeyLine():
            said = "key " + ", ".join(map(_name_text, line.columns))
        case FileColumnLine():
            return f"file column {_name_text(line.name)}"
        case _:
            raise TypeError(line)
    return said if line.file is None else f"{said} in {quote_name(line.file)}"


def _selector_text(selector: Selector) -> str:
    if selector.is_pattern:
        return str(selector.first)
    ends = [selector.first] if selector.last is None else [selector.first, selector.last]
    return "..".join(_name_text(end) if isinstance(end, str) else f"#{end}" for end in ends)


def _kind_text(declared: DeclaredKind) -> str:
    written = [
        pattern if pattern in ("serial", "unix", "unix ms") else quote_text(pattern) for pattern in declared.patterns
    ]
    return declared.kind.value + (" " + ", ".join(written) if written else "")


def _name_text(name: str) -> str:
    """Write a name, in quotes where one of a sub-line's own words would be read instead."""
    return quote_name(name) if name.lower() in _OWN_WORDS else name_text(name)
