"""How long, deep and large a line may be: what is refused here in a sentence would stop everything elsewhere."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from decimal import Decimal
from typing import Any

from lark import Token, Tree

from yardcut.core.errors import ListError, Mend
from yardcut.core.language.syntax.measures import MOST_CHARACTERS
from yardcut.core.language.syntax_trees import Node, Number, Statement, Text, parts_of

MOST_MENDED_CHARACTERS = 2_000
"""Of a line that known slips and mends are looked for in: beyond, looking takes longer than anybody waits."""
_ENDS = (Token, Text, Number)
"""What holds nothing else, and of which there may be very many."""
MOST_LEVELS = 150
"""Of brackets, signs and operations in one another: trees are walked by functions that call themselves."""
MOST_DIGITS = 400
LARGEST_EXPONENT = 400
"""Of a number: past every 64-bit float (IEEE 754, 1.8e308), so that comparing with it is still exact and quick."""
MOST_COUNT_DIGITS = 18
"""Of a number of rows: what fits 64 bits."""


_HALF = re.compile("[\ud800-\udfff]")
"""Half a character: what comes of bytes that are no UTF-8 on a command line."""


def check_length(text: str) -> None:
    """Raise ``ListError`` for a line that is too long to be one, or holds what is no text."""
    half = _HALF.search(text)
    if half is not None:
        raise ListError("this is no character: the line is not UTF-8 here", start=half.start(), end=half.end())
    if len(text) > MOST_CHARACTERS:
        raise ListError(
            f"a line has at most {MOST_CHARACTERS:,} characters, and this one {len(text):,}",
            start=0, end=1, mend=Mend("write several lines, or shorter texts"),
        )  # fmt: skip


def check_tree(tree: Tree[Token]) -> None:
    """Raise ``ListError`` with its place for numbers that are too large, and for a line that is nested too deeply."""
    _check_depth(tree, lambda part: part.children if isinstance(part, Tree) else ())
    for token in tree.scan_values(lambda part: isinstance(part, Token) and part.type in ("NUMBER", "HASH")):
        _check_number(token)


def check_statement(statement: Statement) -> None:
    """Raise ``ListError`` for a line that is nested too deeply, as a chain of signs or of sums is once it is built."""
    _check_depth(statement, _parts)


def _parts(part: object) -> Iterable[object]:
    if isinstance(part, tuple):
        return part
    return parts_of(part) if isinstance(part, Node) else ()


def _check_depth(whole: object, parts: Callable[[Any], Iterable[object]]) -> None:
    waiting = [(whole, 1)]
    while waiting:
        part, level = waiting.pop()
        if level > MOST_LEVELS:
            raise too_deep()
        if type(part) not in _ENDS:
            waiting += [(inner, level + 1) for inner in parts(part)]


def too_deep() -> ListError:
    """Return what is said of a line that is nested too deeply."""
    return ListError(
        f"brackets, signs and operations are nested more than {MOST_LEVELS} levels deep",
        mend=Mend("write several lines: make names what is worked out"),
    )


def _check_number(token: Token) -> None:
    start, end = token.start_pos or 0, token.end_pos or 0
    if len(token) > MOST_DIGITS:
        raise ListError(f"a number has at most {MOST_DIGITS} digits, and this one {len(token):,}", start=start, end=end)
    exponent = re.search(r"[eE]([+-]?\d+)$", token)
    if exponent is None:
        return
    if len(exponent[1]) > 4 or abs(Decimal(token).adjusted()) > LARGEST_EXPONENT:
        least, most = f"1e-{LARGEST_EXPONENT}", f"1e{LARGEST_EXPONENT}"
        raise ListError(f"a number lies between {least} and {most}; no table has others", start=start, end=end)


def check_count(written: str, start: int, end: int) -> None:
    """Raise ``ListError`` for a number of rows that no table has."""
    if written.isdigit() and len(written.lstrip("0")) > MOST_COUNT_DIGITS:
        raise ListError(
            f"no table has so many rows; at most {MOST_COUNT_DIGITS} digits stand here", start=start, end=end
        )
