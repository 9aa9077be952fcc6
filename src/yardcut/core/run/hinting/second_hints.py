"""What is said quietly of a line that looks into a second table."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.lines import statement_text
from yardcut.core.language.second_tree import InSecond
from yardcut.core.language.verbs.bring_parts import Bring, KeyPair
from yardcut.core.language.verbs.filter_parts import Drop, Keep
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.looked_up import LookedUp
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.hinting.hint import Hint
from yardcut.core.run.looking.one_sided_keys import ALIKE, Twin, keys_apart
from yardcut.core.values.kinds import Kind

_MOST_ROWS = 1_000_000
"""Keys without a match are read up to so many."""


def near_misses(result: LineResult, executor: Executor, token: CancelToken) -> Iterator[Hint]:
    """Say which keys differ from one there in capitals, blanks or leading zeros only, and offer to pass over that."""
    for looked in result.looked_up:
        if not len(looked.not_met) or not 0 < looked.unmatched <= _MOST_ROWS or len(looked.not_met) > _MOST_ROWS:
            continue
        twins = keys_apart(looked, token).twins
        for what in dict.fromkeys(twin.what for twin in twins):
            alike = [twin for twin in twins if twin.what == what]
            keys = f"{len(alike):,} {'key differs' if len(alike) == 1 else 'keys differ'}"
            says = f"{keys} in {what} only from one in {looked.matching.other.said}: {_pair(alike[0])}"
            yield Hint(says, _mended(result, looked, alike))


def _pair(twin: Twin) -> str:
    return f"'{' '.join(twin.here)}' here, '{' '.join(twin.there)}' there"


def _mended(result: LineResult, looked: LookedUp, twins: list[Twin]) -> str:
    """Return the line that passes over the difference of some twins; "" where there is none that surely does."""
    statement, what = result.line.statement, twins[0].what
    if statement is None or any(key.kind is not Kind.TEXT for key in looked.matching.keys):
        return ""
    body = statement.body
    if isinstance(body, Bring):
        pairs = tuple(
            KeyPair(_without(pair.ours, what), _without(pair.theirs or pair.ours, what)) for pair in body.keys
        )
        return statement_text(replace(statement, body=replace(body, keys=pairs)))
    if not isinstance(body, Keep | Drop) or not isinstance(body.condition, InSecond):
        return ""
    asked = body.condition
    if what == "capitals":
        asked = replace(asked, ignoring_case=True)
    elif all(tuple(map(ALIKE[what], twin.here)) == twin.there for twin in twins):
        columns = asked.columns or tuple(value for value in asked.values if isinstance(value, t.Name))
        values = tuple(_without(value, what) for value in asked.values)
        asked = replace(asked, values=values, columns=() if looked.matching.other.is_list else columns)
    else:
        return ""
    return statement_text(replace(statement, body=replace(body, condition=asked)))


def _without(node: t.Expression, what: str) -> t.Expression:
    """Return a text without a difference that does not count."""
    if what == "capitals":
        return t.Call("UPPER", (node,))
    if what == "blanks":
        return t.Call("TRIM", (node, t.Word("BOTH")))
    return t.Call("TRIM", (node, t.Word("LEADING"), t.Text("0")))
