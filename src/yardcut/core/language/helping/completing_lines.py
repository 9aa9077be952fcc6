"""What could stand at the end of a line that is being written: verbs, columns, values, words."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

from lark import Token

from yardcut.core.errors import ListError
from yardcut.core.language.functions import FUNCTIONS
from yardcut.core.language.helping.completing_seconds import second_options
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.save_options import SAVE_OPTIONS
from yardcut.core.language.syntax.parsing_lines import read_as_far
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.language.verbs.all_verbs import VERBS
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.formatting import quote_text
from yardcut.core.values.kinds import Kind

_QUOTED = re.compile(r"'(?:[^'\n]|'')*'|\"(?:[^\"\n]|\"\")*\"")
DIAL = "dial"
_WORD = re.compile(r"(?<![\w.])[\w.]*\Z")
_WORDS: dict[str, str] = {
    "_AND": "AND", "_OR": "OR", "NOT": "NOT", "BETWEEN": "BETWEEN", "IN": "IN (", "LIKE": "LIKE",
    "CONTAINS": "CONTAINS", "STARTS": "STARTS WITH", "ENDS": "ENDS WITH", "IS": "IS NULL",
    "IGNORING": "IGNORING CASE", "TRUE": "TRUE",
    "FALSE": "FALSE", "DESC": "DESC", "_NULLS": "NULLS FIRST", "NUMBER_AWARE": "NUMBER AWARE",
    "IN_SEQUENCE": "IN SEQUENCE (", "_PER": "per", "_SEED": "seed", "_BY": "by",
    "WITH": "with ties", "REMAINDER": "remainder", "PERCENT_WORD": "percent", "_WITHOUT": "without", "_AS": "AS",
    "ALL": "all", "REPLACE": "replace", "AS_READ": "as read", "TOP": "top", "BOTTOM": "bottom", "FIRST": "first",
    "LAST": "last", "RANDOM": "random", "EVERY": "every", "ROWS": "rows", "CHANCE": "chance", "_TO": "to",
    "STRATIFIED": "stratified", "PART": "part", "FROM_WORD": "from", "_WEIGHTED": "weighted by", "EQUAL": "equal",
    "PROPORTIONAL": "proportional", "_AT_LEAST": "at least", "SIZES": "sizes", "SHARES": "shares", "OTHERS": "others",
    "_ALONG": "along", "_FILTER": "FILTER (WHERE", "_COLUMN": "column", "MATCHED_ONLY": "matched only",
    "UNMATCHED_ONLY": "unmatched only", "FIRST_MATCH": "first match", "EVERY_MATCH": "every match",
}  # fmt: skip
_COMPARING = frozenset(
    {"EQUALS", "COMPARE", "IN", "LIKE", "CONTAINS", "_WITH", "COMMA", "LPAR", "BETWEEN", "NOT", "STARTS", "ENDS"}
)


_WITH_VALUES = 8


@dataclass(frozen=True, slots=True)
class Option:
    """One completion: the text it puts in, and what is said beside it."""

    text: str
    detail: str = ""


@dataclass(frozen=True, slots=True)
class Completion:
    """The completions at the end of a line; each replaces the text from ``start`` on.

    ``goes_on`` says that nothing is begun there and the line could end: what is offered would make it another line.
    """

    start: int
    options: tuple[Option, ...] = ()
    goes_on: bool = False


@dataclass(frozen=True, slots=True)
class Frequent:
    """The commonest values of a column with their rows; ``about`` when only some of the rows were looked at."""

    values: tuple[tuple[str, int], ...] = ()
    about: bool = False

    def count_text(self, count: int) -> str:
        """Say how many rows have a value."""
        return f"{'about ' if self.about else ''}{count:,} {'row' if count == 1 else 'rows'}"


Values = Callable[[ShownColumn], Frequent]
"""Gives the commonest values of a column among the rows that reach the line being written."""


_MOST_CHARACTERS = 20_000
"""Of a text that is completed: it is read from its beginning."""


def complete(text: str, scope: Scope, values: Values, most: int = 40) -> Completion:
    """Return what could stand at the end of ``text``, the likeliest first."""
    if len(text) > _MOST_CHARACTERS:
        return Completion(len(text), ())
    start = begun_at(text)
    odd = _odd_names(text, start, scope)
    if odd:
        return _odd_completion(text, odd, scope, values)
    partial = text[start:]
    before = text[:start]
    if not before.strip() or before.strip().lower() == "off":
        verbs = [Option(word + " ", verb.does) for word, verb in VERBS.items() if word.startswith(partial.lower())]
        if DIAL.startswith(partial.lower()):
            verbs.append(Option(f"{DIAL} ", "a value with a name, used as :name in lines, and nudged"))
        return Completion(start, tuple(verbs))
    if before.endswith(":"):
        return Completion(start, _dials(before[:-1], partial, scope))
    tokens, accepted = read_as_far(before)
    if (of_second := second_options(tokens, partial, scope)) is not None:
        return Completion(start, tuple(Option(*pair) for pair in of_second[:most]))
    options: list[Option] = []
    if "TEXT" in accepted and not partial.startswith('"'):
        options += _values(tokens, partial, scope, values)
    if "NAME" in accepted and not partial.startswith("'") and not partial[:1].isdigit():
        options += _columns(partial.lstrip('"'), scope, values, most)
    is_measure = _begins_measure(tokens)
    if "FUNCTION" in accepted and (partial or is_measure):
        functions = [
            Option(signature.opening, f"{signature.form}: {signature.does}")
            for name, signature in FUNCTIONS.items()
            if name.startswith(partial.upper()) and (partial or signature.tallies)
        ]
        options = functions + options if is_measure else options + functions
    if partial[:1] not in ("'", '"'):
        typed = partial.lower()
        known = {**_WORDS, **{option.terminal: option.words for option in SAVE_OPTIONS.values()}}
        words = [word for terminal, word in known.items() if terminal in accepted and word.lower().startswith(typed)]
        found = [Option(word if word.endswith("(") else word + " ") for word in words]
        options = options + found if "NAME" in accepted else found + options
    return Completion(start, tuple(options[:most]), goes_on=not partial and "$END" in accepted)


def _begins_measure(tokens: Sequence[Token]) -> bool:
    """Tell whether a measure of a tally comes next: functions are likelier there than columns."""
    kinds = [token.type for token in tokens]
    return kinds[:1] == ["TALLY"] and kinds[-1] in ("TALLY", "COMMA") and "_PER" not in kinds


def _dials(before: str, partial: str, scope: Scope) -> tuple[Option, ...]:
    """Offer the dials whose names begin so, where one can stand."""
    if "DIAL" not in read_as_far(before)[1]:
        return ()
    return tuple(Option(dial.name, dial.said()) for dial in scope.dials if dial.name.startswith(partial))


def _odd_names(text: str, start: int, scope: Scope) -> dict[str, int]:
    """Return the names of several words that the end of a text begins without quotes, and where it begins them."""
    if text[start : start + 1] in ("'", '"'):
        return {}
    found: dict[str, int] = {}
    for name in scope.names():
        if name_text(name) == name or name_text(name).startswith("U&"):
            continue
        for size in range(min(len(name), len(text)), 1, -1):
            place = len(text) - size
            if text[place:].lower() == name[:size].lower() and not text[place - 1 : place].isalnum():
                # one word so far is no more than a fragment: other names may begin so too
                if not name[:size].isidentifier():
                    found[name] = place
                break
    return found


def _odd_completion(text: str, odd: dict[str, int], scope: Scope, values: Values) -> Completion:
    """Offer names of several words, in their quotes, in place of what was begun of them."""
    start = min(odd.values())
    options = []
    for name, place in odd.items():
        column = scope.find(name)
        assert column is not None
        samples = ", ".join(value for value, _ in values(column).values[:3])
        detail = f"{column.kind.value}  {samples}" if samples else column.kind.value
        options.append(Option(text[start:place] + name_text(name), detail))
    return Completion(start, tuple(options))


def complete_source_line(text: str, columns: Sequence[tuple[str, str]], most: int = 40) -> Completion:
    """Return what could stand at the end of a source's sub-line: columns, given as (name, kind), and kinds."""
    start = begun_at(text)
    partial = text[start:].lstrip('"').lower()
    if not partial or text[:start].count("'") % 2:
        return Completion(start)
    options = [Option(name_text(name), kind) for name, kind in columns if partial in name.lower()]
    if text.split(None, 1)[0].lower() == "kind":
        options += [Option(kind.value) for kind in Kind if kind.value.startswith(partial)]
    return Completion(start, tuple(options[:most]))


def begun_at(text: str) -> int:
    """Return where the word or the quoted text begins that the end of ``text`` is in."""
    blanked = _QUOTED.sub(lambda found: " " * len(found.group(0)), text)
    quote = min((place for place in (blanked.find("'"), blanked.find('"')) if place >= 0), default=-1)
    if quote >= 0:
        return quote
    word = _WORD.search(blanked)
    assert word is not None
    return word.start()


def _columns(partial: str, scope: Scope, values: Values, most: int) -> list[Option]:
    typed = partial.lower()
    ranked = []
    for place, name in enumerate(scope.names()):
        lower = name.lower()
        if lower.startswith(typed):
            ranked.append((0, place, name))
        elif typed and typed in lower:
            ranked.append((1, place, name))
    if not ranked and len(typed) > 1:
        from yardcut.core.near import nearest

        ranked = [(2, place, name) for place, name in enumerate(nearest(partial, scope.names()))]
    options: list[Option] = []
    for _, _, name in sorted(ranked)[:most]:
        column = scope.find(name)
        assert column is not None
        detail = column.kind.value
        frequent = values(column) if len(options) < _WITH_VALUES else Frequent()
        samples = ", ".join(text for text, _ in frequent.values[:3])
        such_as = "such as " if frequent.about else ""
        options.append(Option(name_text(name), f"{detail}  {such_as}{samples}" if samples else detail))
    return options


def _values(tokens: list[Token], partial: str, scope: Scope, values: Values) -> list[Option]:
    """Offer the values of the column that is being compared."""
    place = len(tokens) - 1
    while place >= 0 and (tokens[place].type in _COMPARING or tokens[place].type == "TEXT"):
        place -= 1
    if place < 0 or place == len(tokens) - 1 or tokens[place].type not in ("NAME", "QUOTED"):
        return []
    from yardcut.core.language.syntax.building_expressions import name_in

    token = tokens[place]
    try:
        column = scope.find(name_in(token))
    except ListError:  # half a character in it
        return []
    if column is None or column.kind is not Kind.TEXT:
        return []
    typed = partial.lstrip("'").lower()
    frequent = values(column)
    return [
        Option(quote_text(text), frequent.count_text(count)) for text, count in frequent.values if typed in text.lower()
    ]
