"""How a slice is written: what a ``save`` line says besides its path and format."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Literal

from yardcut.core.values.formatting import quote_text

Quoting = Literal["needed", "texts", "all"]
LineEnds = Literal["lf", "crlf"]


@dataclass(frozen=True, slots=True)
class WriteOptions:
    """Options of a target; ``None`` and the defaults are what its format does anyway.

    For delimited text: ``delimiter``, ``decimal``, ``quote`` (one character each), ``encoding``, ``header``,
    ``quoting``, ``line_ends``, ``missing`` (what stands for a missing value), and ``guard``, which keeps texts from
    being run as formulas. For Parquet: ``compression`` and ``group_rows``. ``table`` names the worksheet or the table.
    ``with_list`` writes the list beside the slice.
    """

    delimiter: str | None = None
    decimal: str | None = None
    quote: str | None = None
    encoding: str | None = None
    header: bool = True
    quoting: Quoting = "needed"
    line_ends: LineEnds | None = None
    missing: str | None = None
    guard: bool = False
    compression: str | None = None
    group_rows: int | None = None
    table: str | None = None
    with_list: bool = False

    def text(self) -> str:
        """Write them as a save line has them, a blank before each."""
        said = [
            f" {word} {quote_text(value)}"
            for word in ("delimiter", "decimal", "quote", "encoding", "missing", "compression", "table")
            if (value := getattr(self, word)) is not None
        ]
        said += [" header no"] if not self.header else []
        said += [f" quoting {self.quoting}"] if self.quoting != "needed" else []
        said += [f" line ends {self.line_ends}"] if self.line_ends is not None else []
        said += [f" row groups of {self.group_rows}"] if self.group_rows is not None else []
        said += [" guard formulas"] if self.guard else []
        said += [" with list"] if self.with_list else []
        return "".join(said)

    def named(self) -> list[str]:
        """Return the names of the options that are not as their formats have them anyway."""
        return [each.name for each in fields(self) if getattr(self, each.name) != each.default]


NO_OPTIONS = WriteOptions()

_MARKS = ("delimiter", "decimal", "quote")
_SAID = {"delimiter": "the delimiter", "decimal": "the decimal mark", "quote": "the quote"}


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


def wrong_marks(options: WriteOptions) -> str | None:
    """Say which two marks of some options, all of them given, are one character; ``None`` where they differ."""
    given = [(name, getattr(options, name)) for name in _MARKS if getattr(options, name) is not None]
    for place, (name, mark) in enumerate(given):
        for other, same in given[:place]:
            if mark == same:
                return f"{_SAID[other]} and {_SAID[name]} are the same"
    return None
