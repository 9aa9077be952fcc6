"""Putting a line right: one mend after the other, each the likely meaning, and only if all of it helps."""

from __future__ import annotations

import re

from yardcut.core.errors import ListError, Mend, UnquotedTextError
from yardcut.core.language.helping.completing_lines import Frequent, Values
from yardcut.core.language.helping.mends_of_slips import fix_in_place
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.limits import MOST_MENDED_CHARACTERS
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.run.executing.bound_lines import bind_line
from yardcut.core.values.formatting import quote_name, quote_text
from yardcut.core.values.kinds import Kind

_MOST = 5
_COMPARED = re.compile(
    r"(?<![\w.])(?P<column>[\w.]+)\s*(?:=|<>|!=)\s*(?P<words>[^\W\d][^'\"()=<>]*?)(?=\s+(?:AND|OR)\b|\s*$)",
    re.IGNORECASE,
)
_NOTHING = frozenset({"na", "nan", "none", "nil", "null", "missing", "empty", "blank"})
_OPEN_RANGE = re.compile(r"(?P<line>(?:off\s+)?columns\s+.*(?:#\d+|\w|\")\.\.)\s*\Z", re.IGNORECASE)
_IN_A_NUMBER = re.compile(r"(?P<column>\"[^\"]+\"|[^\W\d]\w*)\s+IN\s+(?P<number>\d+)(?![\w.(])", re.IGNORECASE)
_WORDS = re.compile(r"[^\s'\",()=<>]+")


def mended(text: str, scope: Scope, values: Values) -> tuple[str, tuple[Mend, ...]]:
    """Return a line put right, and the mends in the order they were made; none when it cannot be put right whole.

    A word without quotes is mended only by a value that stands in the column, as the completions offer it.
    """
    applied: list[Mend] = []
    typed = text
    if len(text) > MOST_MENDED_CHARACTERS:
        return typed, ()
    for _ in range(_MOST):
        try:
            bind_line(text, scope, default_seed=0)
        except ListError as error:
            mend = (
                _name_of_words(text, scope, error)
                or _value(text, scope, error, values)
                or _value_of_words(text, scope, error, values)
                or _whole_range(text, scope)
                or _one_number(text, scope, error)
                or error.mend
            )
            if mend is None or mend.text is None or mend.text == text:
                return typed, ()
            applied.append(mend)
            text = mend.text
        else:
            return text, tuple(applied)
    return typed, ()


def _value(text: str, scope: Scope, error: ListError, values: Values) -> Mend | None:
    """Put quotes round the value that a bare word means."""
    if not isinstance(error, UnquotedTextError):
        return None
    column = scope.find(error.column)
    if column is None:
        return None
    frequent = values(column)
    if error.word.casefold() in _NOTHING and error.word not in dict(frequent.values):
        return _no_value(text, error)
    found = likely_value(error.word, frequent)
    if found is None:
        return None
    value, count = found
    says = f"{quote_text(value)} stands in {frequent.count_text(count)}"
    return Mend(says, fix_in_place(text, error.start, error.end, quote_text(value)))


def _no_value(text: str, error: UnquotedTextError) -> Mend | None:
    """``= NA``, ``<> NaN``: what other habits call a missing value."""
    found = re.search(r"\s*(?P<operator>=|<>|!=)\s*\Z", text[: error.start])
    if found is None:
        return None
    says, form = (
        ("no value is IS NULL", "IS NULL")
        if found["operator"] == "="
        else ("a value that is there is IS NOT NULL", "IS NOT NULL")
    )
    return Mend(says, fix_in_place(text, found.start(), error.end, f" {form}"))


def _whole_range(text: str, scope: Scope) -> Mend | None:
    """``columns #7..``: up to the last column there is."""
    found = _OPEN_RANGE.match(text)
    if found is None:
        return None
    return Mend("a range names its last column too", f"{found['line']}{name_text(scope.names()[-1])}")


def _one_number(text: str, scope: Scope, error: ListError) -> Mend | None:
    """``felled_on IN 2031``: the days of a year, or one number."""
    for found in _IN_A_NUMBER.finditer(text):
        column = scope.find(found["column"].strip('"'))
        if column is None or not found.start() <= error.start <= found.end():
            continue
        number = found["number"]
        if column.kind in (Kind.DATE, Kind.TIMESTAMP, Kind.INSTANT):
            meant, says = f"EXTRACT(YEAR FROM {found['column']}) = {number}", "the days of a year are told by EXTRACT"
        elif column.kind.is_numeric:
            meant, says = f"{found['column']} IN ({number})", "the values of a list stand in brackets"
        else:
            meant, says = (
                f"{found['column']} IN ('{number}')",
                "the values of a list stand in brackets, texts in quotes",
            )
        return Mend(says, fix_in_place(text, *found.span(), meant))
    return None


def _value_of_words(text: str, scope: Scope, error: ListError, values: Values) -> Mend | None:
    """Put quotes round a value of several words that stands in the column it is compared with."""
    for found in _COMPARED.finditer(text):
        column = scope.find(found["column"])
        if column is None or not found.start("words") <= error.start <= found.end("words"):
            continue
        frequent = values(column)
        exact = dict(frequent.values).get(found["words"])
        if exact is not None:
            says = f"{quote_text(found['words'])} stands in {frequent.count_text(exact)}"
            return Mend(says, fix_in_place(text, *found.span("words"), quote_text(found["words"])))
    return None


def likely_value(word: str, frequent: Frequent) -> tuple[str, int] | None:
    """Return the value of a column that a word likely means: that very one, one in other capitals, or a near one."""
    counts = dict(frequent.values)
    if word in counts:
        return word, counts[word]
    folded = word.casefold()
    alike = [value for value in counts if value.strip().casefold() == folded]
    # the completions offer what has the word in it, the commonest first: the same is taken here
    alike = alike or [value for value in counts if folded in value.casefold()]
    if alike:
        return alike[0], counts[alike[0]]
    from yardcut.core.near import nearest_value

    near = nearest_value(word, list(counts))
    return None if near is None else (near, counts[near])


def _name_of_words(text: str, scope: Scope, error: ListError) -> Mend | None:
    """Put quotes round a column's name of several words that stands there without them."""
    names = {name for name in scope.names() if not name.isidentifier()}
    if not names:
        return None
    words = [(found.start(), found.end()) for found in _WORDS.finditer(text)]
    for first, (start, _) in enumerate(words):
        for _, end in reversed(words[first:]):
            written = text[start:end]
            if written in names and start <= error.start <= end:
                return Mend(
                    f"the column {written} stands in double quotes", fix_in_place(text, start, end, quote_name(written))
                )
    return None
