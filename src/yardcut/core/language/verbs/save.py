"""``save``: the slice, as it is at this line, to a file or to several."""

from __future__ import annotations

import codecs
from dataclasses import dataclass
from typing import Any

from lark import Token

from yardcut.core.errors import ListError, Mend, YardcutError
from yardcut.core.language import tree as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binder import Binder
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.building_expressions import unquote
from yardcut.core.language.syntax.printing import side_text
from yardcut.core.language.verbs.verb import Effect, Verb
from yardcut.core.language.write_options import NO_OPTIONS, WriteOptions, wrong_mark, wrong_marks
from yardcut.core.paths import path_of
from yardcut.core.values.formatting import quote_name

_EXAMPLES = {"delimiter": "delimiter ';'", "decimal": "decimal ','", "quote": "quote '\"'"}
_ONE_CHARACTER = tuple(_EXAMPLES)


@dataclass(frozen=True, slots=True)
class Save(t.Body):
    """Writes the slice to a file; to one for each value of ``per``, or for each ``per_rows`` rows, where these say so.

    ``path`` then holds ``{name}``, or ``{n}`` for the file's number.
    """

    path: str
    format: str | None = None
    replace: bool = False
    options: WriteOptions = NO_OPTIONS
    per: t.Expression | None = None
    per_rows: int | None = None

    @property
    def word(self) -> str:
        """The verb."""
        return "save"


@dataclass(frozen=True, slots=True)
class BoundSave(b.BoundBody):
    """A save line, and the value whose rows each get a file of their own."""

    save: Save
    per: b.BoundValue | None = None

    @property
    def computes(self) -> bool:
        """It looks at values only to part the rows by them."""
        return self.per is not None


def _save(span: t.Span, items: list[Any]) -> Save:
    options: dict[str, Any] = {}
    own: dict[str, Any] = {}
    for item in items[2:]:
        name, value = _NAMED[item.type] if isinstance(item, Token) else item
        where = own if name in ("format", "replace", "per", "per_rows") else options
        if name in where or (name in ("per", "per_rows") and own.keys() & {"per", "per_rows"}):
            raise ListError(f"{_WORDS.get(name, name)} stands twice in this line", start=span[0], end=span[1])
        where[name] = value
    path = unquote(items[1])
    if not path:
        raise ListError("save takes a path, and this is none", start=span[0], end=span[1])
    return Save(path, options=WriteOptions(**options), span=span, **own)


_NAMED = {"REPLACE": ("replace", True), "GUARD": ("guard", True), "WITH_LIST": ("with_list", True)}
_WORDS = {
    "format": "as", "per": "one file per", "per_rows": "one file per", "guard": "guard formulas",
    "with_list": "with list", "line_ends": "line ends", "group_rows": "row groups of",
}  # fmt: skip


def _text_option(span: t.Span, items: list[Any]) -> tuple[str, str]:
    name, text = str(items[0]).lower(), unquote(items[1])
    if name == "delimiter":
        text = text.replace("\\t", "\t")
    if name in _ONE_CHARACTER:
        wrong = f"{name} takes one character" if len(text) != 1 else wrong_mark(name, text)
        if wrong:
            raise ListError(wrong, start=span[0], end=span[1], mend=Mend(f"for example: {_EXAMPLES[name]}"))
    if name == "quote" and not text.isascii():
        raise ListError(
            f"quote takes a character of ASCII, such as ' or \": {text} is written in more than one byte",
            start=span[0], end=span[1],
        )  # fmt: skip
    return name, text


def _whole(token: Token) -> int:
    start, end = token.start_pos or 0, token.end_pos or 0
    if not token.isdigit() or not 0 < len(token.lstrip("0")) <= _MOST_DIGITS:
        raise ListError(f"a number of rows stands here, from 1, not {token}", start=start, end=end)
    return int(token)


_MOST_DIGITS = 18


def _one_file(span: t.Span, items: list[Any]) -> tuple[str, Any]:
    return ("per_rows", _whole(items[0])) if isinstance(items[0], Token) else ("per", items[0])


def _text(body: Save) -> str:
    said = quote_name(body.path) + (f" as {body.format}" if body.format else "") + body.options.text()
    if body.per is not None:
        said += f" one file per {side_text(body.per)}"
    elif body.per_rows is not None:
        said += f" one file per {body.per_rows} rows"
    return said + (" replace" if body.replace else "")


def _bind(body: Save, binder: Binder) -> tuple[BoundSave, Scope]:
    try:
        path_of(body.path)
    except YardcutError as error:
        raise ListError(error.message, start=body.span[0], end=body.span[1], mend=error.mend) from None
    options = body.options
    wrong = wrong_marks(options)
    if wrong is not None:
        raise ListError(wrong, start=body.span[0], end=body.span[1])
    if options.encoding is not None and not _is_encoding(options.encoding):
        raise ListError(f"there is no encoding {options.encoding}", start=body.span[0], end=body.span[1],
                        mend=Mend("for example: encoding 'utf-8', 'utf-16' or 'cp1252'"))  # fmt: skip
    return BoundSave(body, None if body.per is None else binder.value(body.per)), binder.scope


_NO_FILES = frozenset(["idna", "punycode", "unicode_escape", "raw_unicode_escape", "undefined"])
"""Codecs of Python for names and literals: no other program reads files in them."""


def _is_encoding(name: str) -> bool:
    try:
        return codecs.lookup(name).name.replace("-", "_") not in _NO_FILES and "a".encode(name).decode(name) == "a"
    except (LookupError, UnicodeError, ValueError, TypeError, AssertionError):
        return False


SAVE = Verb(
    "save",
    'save "path" [as csv | tsv | parquet | arrow | jsonl | json | xlsx | sqlite] [options] [replace]',
    "writes the slice as it is at this line",
    'save "winter-oak.csv" delimiter \';\' missing \'NA\'',
    Effect.WRITES,
    {
        "save_format": lambda span, items: ("format", str(items[0]).lower()),
        "save_text": _text_option,
        "save_header": lambda span, items: ("header", items[0].type == "YES"),
        "quoting": lambda span, items: ("quoting", str(items[0]).lower()),
        "line_ends": lambda span, items: ("line_ends", str(items[0]).lower()),
        "one_file": _one_file,
        "row_groups": lambda span, items: ("group_rows", _whole(items[0])),
        "save": _save,
    },
    _text,
    _bind,
    forms={
        "delimiter": "save \"oak.csv\" delimiter ';' decimal ',' quote '\"' encoding 'cp1252' header no",
        "quoting": "save \"oak.csv\" quoting needed | texts | all, line ends lf | crlf, missing 'NA', guard formulas",
        "compression": "save \"oak.parquet\" compression 'zstd' row groups of 100000",
        "table": "save \"woods.xlsx\" table 'oak': several cuts go into one workbook or database",
        "one": 'save "{species}.csv" one file per species, or save "part-{n}.csv" one file per 100000 rows',
        "with": 'save "oak.csv" with list: the list goes with it, as oak.cut',
    },
)  # fmt: skip
