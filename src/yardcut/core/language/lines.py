"""Whole lines: binding them, each to the columns the one above leaves, and writing them."""

from __future__ import annotations

import itertools
import re
from dataclasses import replace

from yardcut.core.errors import ListError, Mend, NoFunctionError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning.binder import Binder, Bound
from yardcut.core.language.meaning.bound import NothingDone
from yardcut.core.language.meaning.dials_put_in import put_in_line
from yardcut.core.language.meaning.fixed import Fixed
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.parsing_lines import said_otherwise
from yardcut.core.language.verbs.all_verbs import VERBS
from yardcut.core.language.verbs.verb import Effect


def bind(statement: t.Statement, text: str, scope: Scope, fixed: Fixed) -> Bound:
    """Bind one line that is switched on. Raises ``ListError`` with offsets into ``text``."""
    binder = Binder(scope, text, fixed)
    if ":" in text:
        found, hints = put_in_line(statement, scope.dials)
        if found is None:
            return Bound(NothingDone(), scope, ("does nothing: the dial of its number is empty",))
        statement = found
        binder.lookup.hints += hints
    try:
        body, after = VERBS[statement.verb].bind(statement.body, binder)
    except ListError as error:
        if isinstance(error, NoFunctionError) and (known := said_otherwise(text, error.function)) is not None:
            error = error.with_mend(known)
        if error.mend is not None and error.mend.text is not None and not same_dials(text, error.mend.text):
            error = error.with_mend(Mend(error.mend.says))  # a mend keeps what the line goes by
        raise error from None
    verb = VERBS[statement.verb]
    if verb.effect is Effect.ARRANGES:
        written = verb.text(statement.body)
        if scope.unused_order and not written.startswith("as read"):
            binder.lookup.hints.append(_buried(scope.unused_order, written))
        after = replace(after, unused_order=written)
    elif not verb.passes_order:
        after = replace(after, unused_order="")
    return Bound(body, after, tuple(dict.fromkeys(binder.lookup.hints)))


def _buried(above: str, written: str) -> str:
    """Say that an order hides the one above it, and how both are one."""
    return (
        f"the order above only tells apart rows that are equal here; as one, its keys first: order {above}, {written}"
    )


def same_dials(text: str, other: str) -> bool:
    """Tell whether two lines use the same dials: what puts a value in the place of one means something else.

    >>> same_dials('keep a > :best', 'keep a >= :best'), same_dials('keep a > :best', 'keep a > 3')
    (True, False)
    """
    names = {name for name in _DIAL.findall(text) if name}
    return not names or names == {name for name in _DIAL.findall(other) if name}


def first_dial(text: str) -> tuple[str, int] | None:
    """Return the dial that a line names first, and where; ``None`` where it names none.

    >>> first_dial("draw top :best by price")
    ('best', 9)
    """
    return next(((found[1], found.start()) for found in _DIAL.finditer(text) if found[1]), None)


_DIAL = re.compile(r"'(?:[^'\n]|'')*'|\"(?:[^\"\n]|\"\")*\"|:([^\W\d]\w*)")


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
