"""The options of a ``save`` line, each in one place: its word, what it takes, where it counts, and how it is offered.

The grammar, the words that are written again, completion, the card, the help and the check beforehand read this table.
A writer asks for an option's value by the option itself: ``options[DELIMITER]``.
"""

from __future__ import annotations

import codecs
import re
from collections.abc import Callable, Mapping
from dataclasses import field
from typing import Generic, Literal, TypeVar

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.formatting import quote_text

Value = TypeVar("Value")
Quoting = Literal["needed", "texts", "all"]
LineEnds = Literal["lf", "crlf"]

DELIMITED = frozenset(["csv", "tsv"])
ALL_FORMATS: frozenset[str] = frozenset()
_MOST_DIGITS = 18


class WrongValueError(Exception):
    """What stands behind an option is none of its values; ``mend`` says one that is."""

    def __init__(self, message: str, mend: str = "") -> None:
        super().__init__(message)
        self.message, self.mend = message, mend


@dataclass(frozen=True, slots=True, eq=False)
class SaveOption(Generic[Value]):
    """One option; ``usual`` is its value where nothing is said.

    ``words`` are written in a line; ``form`` is how, with an example. Behind them stands a text, a number of rows, one
    of ``among``, or nothing (its value is then ``True``), as ``takes`` says. ``formats`` are those that have it, none
    for all. ``changes_texts`` tells whether a value other than the usual makes another text of a cell or a row than it
    has in the source; ``check`` gives the value of a text, or raises ``WrongValueError``. ``label`` and ``choices``
    are the card's, ``says`` is the manual's.
    """

    name: str
    words: str
    usual: Value
    takes: Literal["text", "rows", "word", "nothing"]
    formats: frozenset[str]
    form: str
    says: str
    label: str = ""
    choices: tuple[tuple[Value, str], ...] = ()
    among: Mapping[str, Value] = field(default_factory=dict)
    changes_texts: bool = False
    check: Callable[[str], object] = str

    @property
    def terminal(self) -> str:
        """Its name in the grammar."""
        return f"OPTION_{self.name.upper()}"

    def value_of(self, written: str) -> object:
        """Return the value of what stands behind its words. Raises ``WrongValueError``."""
        if self.takes == "nothing":
            return True
        if self.takes == "word":
            return self.among[written.lower()]
        return rows_of(written) if self.takes == "rows" else self.check(written)

    def text(self, value: object) -> str:
        """Write it as a line has it, a blank before."""
        if self.takes == "nothing":
            return f" {self.words}"
        if self.takes == "word":
            return f" {self.words} {next(word for word, each in self.among.items() if each == value)}"
        return f" {self.words} {quote_text(str(value)) if self.takes == 'text' else value}"

    def is_of(self, format_name: str) -> bool:
        """Tell whether a format has it."""
        return not self.formats or format_name in self.formats


def rows_of(written: str) -> int:
    """Return a number of rows, from 1. Raises ``WrongValueError``.

    >>> rows_of("100000")
    100000
    """
    if not written.isdigit() or not 0 < len(written.lstrip("0")) <= _MOST_DIGITS:
        raise WrongValueError(f"a number of rows stands here, from 1, not {written}")
    return int(written)


def _mark(name: str, example: str) -> Callable[[str], str]:
    def check(text: str) -> str:
        text = text.replace("\\t", "\t") if name == "delimiter" else text
        wrong = f"{name} takes one character" if len(text) != 1 else wrong_mark(name, text)
        if wrong:
            raise WrongValueError(wrong, f"for example: {example}")
        if name == "quote" and not text.isascii():
            raise WrongValueError(
                f"quote takes a character of ASCII, such as ' or \": {text} is written in more than one byte"
            )
        return text

    return check


def wrong_mark(name: str, mark: str) -> str:
    """Say why a character cannot be the delimiter, decimal mark or quote of a file that others can read; "" if it can.

    >>> wrong_mark("decimal", "-")
    "decimal '-' cannot be told from a sign"
    """
    written = f"{name} {quote_text(mark)}"
    if mark in "\r\n\0":
        return f"{name} takes a character that ends no line and is no zero byte"
    if mark.isalnum():
        return f"{written} cannot be told from the letters and digits of the cells"
    if name != "delimiter" and mark in "+-":
        return f"{written} cannot be told from a sign"
    if name != "delimiter" and (mark.isspace() or mark == "_"):
        return f"{written} cannot be told from what stands in texts"
    if name == "quote" and mark == ".":
        return f"{written} cannot be told from a decimal point"
    return ""


def _encoding(text: str) -> str:
    if not _is_encoding(text):
        raise WrongValueError(f"there is no encoding {text}", "for example: encoding 'utf-8', 'utf-16' or 'cp1252'")
    return text


_NO_FILES = frozenset(["idna", "punycode", "unicode_escape", "raw_unicode_escape", "undefined"])
"""Codecs of Python for names and literals: no other program reads files in them."""


def _is_encoding(name: str) -> bool:
    try:
        return codecs.lookup(name).name.replace("-", "_") not in _NO_FILES and "a".encode(name).decode(name) == "a"
    except (LookupError, UnicodeError, ValueError, TypeError, AssertionError):
        return False


DELIMITER: SaveOption[str | None] = SaveOption(
    "delimiter", "delimiter", None, "text", DELIMITED, "delimiter ';'",
    "one character between cells; none that a reader could not tell from the cells, and no two marks alike",
    "between cells",
    ((None, "as in the source, else comma"), (",", "comma"), (";", "semicolon"), ("\t", "tab"), ("|", "bar")),
    changes_texts=True, check=_mark("delimiter", "delimiter ';'"),
)  # fmt: skip
DECIMAL: SaveOption[str | None] = SaveOption(
    "decimal", "decimal", None, "text", DELIMITED, "decimal ','", "the decimal mark of numbers, one character",
    "decimal mark", ((None, "as in the source, else point"), (".", "point"), (",", "comma")),
    changes_texts=True, check=_mark("decimal", "decimal ','"),
)  # fmt: skip
QUOTE: SaveOption[str | None] = SaveOption(
    "quote", "quote", None, "text", DELIMITED, "quote '\"'", "the quote around cells, one character",
    changes_texts=True, check=_mark("quote", "quote '\"'"),
)  # fmt: skip
HEADER: SaveOption[bool] = SaveOption(
    "header", "header", True, "word", DELIMITED | {"xlsx"}, "header no", "without the names above the rows",
    "names above", ((True, "yes"), (False, "no")), {"yes": True, "no": False},
)  # fmt: skip
QUOTING: SaveOption[Quoting] = SaveOption(
    "quoting", "quoting", "needed", "word", DELIMITED, "quoting texts",
    "what is quoted: needed, texts or all", "quotes",
    (("needed", "where needed"), ("texts", "around texts"), ("all", "around all")),
    {"needed": "needed", "texts": "texts", "all": "all"}, changes_texts=True,
)  # fmt: skip
MISSING: SaveOption[str | None] = SaveOption(
    "missing", "missing", None, "text", DELIMITED, "missing 'NA'",
    "what stands for no value; no value of the slice may be written so", "no value",
    ((None, "as it stands, else empty"), ("NA", "NA"), ("NULL", "NULL"), ("\\N", "\\N")), changes_texts=True,
)  # fmt: skip
LINE_ENDS: SaveOption[LineEnds | None] = SaveOption(
    "line_ends", "line ends", None, "word", DELIMITED, "line ends crlf", "lf or crlf; as in the source by default",
    "line ends",
    ((None, "as in the source, else line feed"), ("lf", "line feed"), ("crlf", "carriage return and line feed")),
    {"lf": "lf", "crlf": "crlf"}, changes_texts=True,
)  # fmt: skip
ENCODING: SaveOption[str | None] = SaveOption(
    "encoding", "encoding", None, "text", DELIMITED, "encoding 'cp1252'",
    "how characters are written; one that it does not have ends the save", "characters",
    (
        (None, "as in the source, else utf-8"), ("utf-8", "utf-8"), ("utf-8-sig", "utf-8 with its mark"),
        ("utf-16", "utf-16"), ("cp1252", "cp1252"),
    ),
    check=_encoding,
)  # fmt: skip
GUARD: SaveOption[bool] = SaveOption(
    "guard", "guard formulas", False, "nothing", DELIMITED, "guard formulas",
    "an apostrophe before texts that a spreadsheet would run; the app says when there are any", "formulas",
    ((False, "written as they are"), (True, "made harmless: an apostrophe before them")), changes_texts=True,
)  # fmt: skip
COMPRESSIONS = ("zstd", "snappy", "gzip", "brotli", "lz4", "none")
COMPRESSION: SaveOption[str | None] = SaveOption(
    "compression", "compression", None, "text", frozenset(["parquet"]), "compression 'zstd'",
    f"one of {', '.join(COMPRESSIONS)}", "compression",
    ((None, "zstd"), ("snappy", "snappy"), ("gzip", "gzip"), ("none", "none")),
)  # fmt: skip
GROUP_ROWS: SaveOption[int | None] = SaveOption(
    "group_rows", "row groups of", None, "rows", frozenset(["parquet"]), "row groups of 100000",
    "how many rows each part of the file holds", "row groups of",
    ((None, "262,144 rows"), (100_000, "100,000 rows"), (1_000_000, "1,000,000 rows")),
)  # fmt: skip
TABLE: SaveOption[str | None] = SaveOption(
    "table", "table", None, "text", frozenset(["xlsx", "sqlite"]), "table 'oak'",
    "the worksheet or table, of a database server too; several cuts of a run that name one file each have theirs in it",
)  # fmt: skip
WITH_LIST: SaveOption[bool] = SaveOption(
    "with_list", "with list", False, "nothing", ALL_FORMATS, "with list",
    "`oak.cut` goes beside `oak.csv`: the list with dials, seeds, what the source was and the rows of each line",
    "the list", ((False, "stays here"), (True, "goes with it, with dials, seeds, sources and counts")),
)  # fmt: skip

SAVE_OPTIONS: dict[str, SaveOption[object]] = {
    option.name: option  # type: ignore[misc] # whose values are of several types
    for option in (
        DELIMITER, DECIMAL, QUOTE, ENCODING, MISSING, COMPRESSION, TABLE, HEADER, QUOTING, LINE_ENDS, GROUP_ROWS, GUARD,
        WITH_LIST,
    )
}  # fmt: skip
"""In the order in which they are written."""


def options_grammar() -> str:
    """Return the rule ``save_option`` of the language's grammar, with its words."""
    forms, words = [], {}
    behind = {"text": "TEXT", "rows": "NUMBER", "nothing": ""}
    for option in SAVE_OPTIONS.values():
        words[option.terminal] = option.words
        some = {f"OPTION_WORD_{word.upper()}": word for word in option.among}
        words |= some
        forms.append(f"{option.terminal} {behind.get(option.takes, '(' + ' | '.join(some) + ')')}")
    rules = "\n    | ".join(forms)
    terminals = [f"{name}.2: /{words_pattern(each)}(?!\\w)/i" for name, each in words.items()]
    return f"save_option: {rules}\n" + "\n".join(terminals) + "\n"


def words_pattern(words: str) -> str:
    """Return the pattern of words, with any blanks between them.

    >>> words_pattern('line ends')
    'line\\\\s+ends'
    """
    return r"\s+".join(map(re.escape, words.split()))
