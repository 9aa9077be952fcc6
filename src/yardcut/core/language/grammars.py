"""Loading grammars, each once."""

from __future__ import annotations

import threading
from functools import cache
from importlib.resources import files

from lark import Lark

_LOADING = threading.Lock()


def grammar(name: str = "cut", start: str = "statement") -> Lark:
    """Return the parser of a grammar of this package, built once.

    One thread at a time: Python 3.11 loses count when two threads build syntax trees of its own at once, as the
    loading of a grammar does.
    """
    with _LOADING:
        return _load(name, start)


@cache
def _load(name: str, start: str) -> Lark:
    text = (files("yardcut.core.language") / f"{name}.lark").read_text(encoding="utf-8")
    return Lark(text, parser="lalr", lexer="contextual", start=start, maybe_placeholders=False,
                propagate_positions=True)  # fmt: skip
