"""Whole lines: binding them, each to the columns the one above leaves, and writing them."""

from __future__ import annotations

import itertools
from dataclasses import replace

from yardcut.core.language import tree as t
from yardcut.core.language.binding import Binder, Bound
from yardcut.core.language.fixed import Fixed
from yardcut.core.language.scope import Scope
from yardcut.core.language.verbs.table import VERBS


def bind(statement: t.Statement, text: str, scope: Scope, fixed: Fixed) -> Bound:
    """Bind one line that is switched on. Raises ``ListError`` with offsets into ``text``."""
    binder = Binder(scope, text, fixed)
    body, after = VERBS[statement.verb].bind(statement.body, binder)
    return Bound(body, after, tuple(dict.fromkeys(binder.lookup.hints)))


def statement_text(statement: t.Statement) -> str:
    """Write a whole line of a cut in the form of the language: parsed again it is the same tree."""
    off = "off " if statement.off else ""
    return f"{off}{statement.verb} {VERBS[statement.verb].text(statement.body)}"


def with_seed(statement: t.Statement, seed: int) -> t.Statement:
    """Return a line with a seed where it goes by chance and has none."""
    return replace(statement, body=VERBS[statement.verb].seeded(statement.body, seed))


def wants_seed(statement: t.Statement) -> bool:
    """Tell whether a line goes by chance without saying by which seed."""
    return with_seed(statement, 0) != statement


def phrase(statement: t.Statement, text: str) -> str:
    """Return what stands behind a line's verb, as it is written, on one line."""
    words = text.split()
    return " ".join(words[2 if statement.off else 1 :])


def broken(statement: t.Statement, text: str) -> list[str]:
    """Return a line as it is written, broken where that helps reading it."""
    places = [0, *VERBS[statement.verb].breaks(statement.body, text), len(text)]
    return [" ".join(text[start:end].split()) for start, end in itertools.pairwise(places)]
