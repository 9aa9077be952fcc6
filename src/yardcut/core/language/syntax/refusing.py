"""Reading a text by a grammar: within the limits, its tree built, and every refusal a sentence with its place."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from lark import Token, Tree
from lark.exceptions import UnexpectedInput, VisitError

from yardcut.core.errors import ListError, Mend
from yardcut.core.language.syntax.grammars import grammar
from yardcut.core.language.syntax.limits import check_length, check_tree, too_deep

Built = TypeVar("Built")


def read(
    text: str,
    build: Callable[[Tree[Token]], Built],
    refusal: Callable[[UnexpectedInput], ListError],
    *,
    name: str = "cut",
    start: str = "statement",
) -> Built:
    """Return what ``build`` makes of the text's tree by the grammar ``name`` from its rule ``start``.

    ``refusal`` makes the error of a text that the grammar does not have. Raises ``ListError`` only.
    """
    try:
        check_length(text)
        tree = grammar(name, start).parse(text)
        check_tree(tree)
        return build(tree)
    except UnexpectedInput as error:
        raise refusal(error) from None
    except RecursionError:
        raise too_deep() from None
    except VisitError as error:
        if isinstance(error.orig_exc, ListError):
            raise error.orig_exc from None
        raise


def refused(text: str, error: UnexpectedInput, where: str, example: str) -> ListError:
    """Return the error of a text that has one form only: where it stops being that, and an example of it."""
    at_end = getattr(getattr(error, "token", None), "type", "") == "$END"
    place = len(text) if at_end else min(error.pos_in_stream or 0, len(text))
    return ListError(
        f"this cannot stand {where}: {text[place : place + 20].strip() or 'the end of the line'}",
        start=place, end=min(len(text), place + 1), mend=Mend(f"for example: {example}"),
    )  # fmt: skip
