"""Parsing one statement; an error has a place, what was met, what could stand there, and a mend where one is likely."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any

from lark import Token, Tree
from lark.exceptions import UnexpectedCharacters, UnexpectedInput

from yardcut.core.errors import ListError, Mend, NotYetError
from yardcut.core.language.functions import FUNCTIONS, unknown_function
from yardcut.core.language.helping.mends_of_slips import QUOTED, candidates
from yardcut.core.language.helping.phrases import phrased_otherwise
from yardcut.core.language.helping.slips import Slip, beginning_slip, inner_slip
from yardcut.core.language.syntax.building import build
from yardcut.core.language.syntax.building_expressions import LATER_WORDS, not_yet
from yardcut.core.language.syntax.grammars import grammar
from yardcut.core.language.syntax.limits import MOST_MENDED_CHARACTERS, check_statement
from yardcut.core.language.syntax.refusing import read
from yardcut.core.language.syntax_trees import Statement
from yardcut.core.language.verbs.all_verbs import LATER_VERBS, VERBS


@lru_cache(maxsize=4096)
def parse_statement(text: str) -> Statement:
    """Parse one line of a cut.

    Raises ``ListError`` with offsets into ``text``, and a mend whose text parses.
    """
    try:
        return _parse(text)
    except NotYetError:
        raise
    except ListError as error:
        if error.mend is not None or len(text) > MOST_MENDED_CHARACTERS:
            raise
        for says, mended in (*candidates(text, error.start), *phrased_otherwise(text)):
            if _parses(mended):
                raise error.with_mend(Mend(says, mended)) from None
        raise


def said_otherwise(text: str, function: str) -> Mend | None:
    """Return how a line is written without a function that is not there, where that is known."""
    if len(text) <= MOST_MENDED_CHARACTERS:
        for says, mended in phrased_otherwise(text):
            called = re.search(rf"\b{re.escape(function)}\s*\(", re.sub(QUOTED, "", mended), re.IGNORECASE)
            if called is None and _parses(mended):
                return Mend(says, mended)
    return None


def _parses(text: str) -> bool:
    try:
        _parse(text)
    except ListError:
        return False
    return True


def _parse(text: str) -> Statement:
    first = text.split(None, 2)[:2]
    word = first[1] if len(first) > 1 and first[0].lower() == "off" else (first[0] if first else "")
    start = text.find(word) if word else 0
    slip = None if word.lower() in (*VERBS, *LATER_VERBS) else beginning_slip(text)
    if slip is not None:
        raise _slipped(slip)
    if word.lower() in LATER_VERBS:
        raise NotYetError(f"this version does not have {word.lower()} lines yet", start=start, end=start + len(word))
    if word.lower() not in VERBS:
        known = ", ".join(VERBS)
        raise ListError(
            f"a line starts with one of {known}" + (f"; {word} is none of them" if word else ""),
            start=start, end=start + len(word), mend=_nearest_verb(text, word, start),
        )  # fmt: skip
    return read(text, _built, lambda error: _syntax_error(text, error))


def _built(tree: Tree[Token]) -> Statement:
    statement = build(tree)
    check_statement(statement)
    return statement


def _nearest_verb(text: str, word: str, start: int) -> Mend | None:
    from yardcut.core.near import nearest_verb

    found = nearest_verb(word, list(VERBS))
    return None if found is None else Mend(f"did you mean {found}?", text[:start] + found + text[start + len(word) :])


def _syntax_error(text: str, error: UnexpectedInput) -> ListError:
    tokens, accepted = read_as_far(text)
    for known in tokens:
        if known.type in LATER_WORDS:
            return not_yet(known)
        if known.type == "FUNCTION" and known.upper() not in FUNCTIONS:
            return unknown_function(known, known.start_pos or 0)
    start: int
    end: int
    if isinstance(error, UnexpectedCharacters):
        start = error.pos_in_stream or 0
        word = re.match(r"[\w.]+|.?", text[start:], re.DOTALL)  # 100x is no number, and neither is its first digit met
        met = word[0] if word is not None else ""
        end = start + len(met)
    else:
        token: Any = getattr(error, "token", None)
        if token is None or token.type == "$END":
            start = end = len(text.rstrip())
            met = ""
        else:
            start, end, met = token.start_pos, token.end_pos, str(token)
    if text.startswith("--", start):
        return ListError(
            "-- is either a comment, which needs a blank on both sides, or two minus signs, "
            "which need one between them",
            start=start, end=start + 2,
        )  # fmt: skip
    can_be_mended = len(text) <= MOST_MENDED_CHARACTERS
    slip = (beginning_slip(text) or inner_slip(text, start, tokens)) if can_be_mended else None
    if slip is not None:
        return _slipped(slip)
    if met == ":":
        return ListError("behind the colon stands the name of a dial", start=start, end=end)
    if met in ("'", '"'):
        return ListError("this quote does not close on its line", start=start, end=len(text))
    wanted = describe(accepted)
    where = f"{met} cannot stand here" if met else "the line is not whole"
    return ListError(f"{where}; {wanted}" if wanted else where, start=start, end=end)


def _slipped(slip: Slip) -> ListError:
    """Say what went wrong. What is offered in its place is right itself, or put right by its own mend, or left away."""
    mended = slip.mended
    if mended is not None:
        try:
            parse_statement(mended)
        except ListError as error:
            mended = error.mend.text if error.mend is not None else None
    mend = Mend(f"write {mended}", mended) if mended is not None else None
    return ListError(slip.message, start=slip.start, end=slip.end, mend=mend)


def read_as_far(text: str) -> tuple[list[Token], set[str]]:
    """Read a line as far as the grammar goes: the tokens read, and the terminals that could stand behind them."""
    parser = grammar().parse_interactive(text)
    tokens: list[Token] = []
    try:
        for token in parser.iter_parse():
            tokens.append(token)
    except UnexpectedInput as error:
        if tokens and getattr(error, "token", None) is tokens[-1]:
            tokens.pop()
    accepted: set[str] = parser.accepts()  # type: ignore[no-untyped-call] # lark leaves it untyped
    return tokens, accepted


_DESCRIPTIONS: tuple[tuple[str, frozenset[str]], ...] = (
    ("a column", frozenset({"NAME", "QUOTED"})),
    ("a text in single quotes", frozenset({"TEXT"})),
    ("a number", frozenset({"NUMBER"})),
    ("a comparison (= <> < <= > >=, BETWEEN, IN, LIKE, CONTAINS, IS NULL)", frozenset({"COMPARE"})),
    ("AND or OR", frozenset({"_AND", "_OR"})),
    ("a closing bracket", frozenset({"RPAR"})),
    ("an equals sign", frozenset({"EQUALS"})),
    ("an opening bracket", frozenset({"LPAR"})),
    ("a comma", frozenset({"COMMA"})),
    ("NULL, TRUE, FALSE or UNKNOWN", frozenset({"UNKNOWN"})),
    ("ASC or DESC", frozenset({"DESC"})),
    ("NULLS FIRST, IGNORING CASE, NUMBER AWARE, IN SEQUENCE (…)", frozenset({"_NULLS", "NUMBER_AWARE"})),
    ("first, last, top, bottom, random, stratified, every, rows, from, part or chance", frozenset({"TOP"})),
    ("per", frozenset({"_PER"})),
    ("by", frozenset({"_BY"})),
    ("seed", frozenset({"_SEED"})),
    ("a pattern such as moisture_*", frozenset({"PATTERN"})),
    ("a file name in quotes", frozenset({"QUOTED", "TEXT"})),
    ("the end", frozenset({"$END"})),
)


def describe(terminals: set[str]) -> str:
    """Say in words what could stand at a place where the grammar accepts these terminals."""
    if terminals == {"QUOTED", "TEXT"}:
        return "a file name in quotes could stand here"
    passed = {"a file name in quotes", *(["an equals sign"] if "COMPARE" in terminals else [])}
    words = [word for word, needed in _DESCRIPTIONS if needed <= terminals and word not in passed]
    if not words:
        return ""
    if len(words) == 1:
        return f"{words[0]} could stand here"
    return f"{', '.join(words[:-1])} or {words[-1]} could stand here"
