"""Tallies in SQL: groups and aggregates under numbers, and the columns that are made of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from yardcut.core.language.meaning import bound as b
from yardcut.core.language.verbs.tally import BoundTally, columns_along
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sql.dialects import quoted_name
from yardcut.core.sql.expression_texts import Writer, not_said


@dataclass(frozen=True, slots=True)
class TallyText:
    """What is told of each group, what it is told apart by (a GROUP BY clause), and what is shown, under ``names``."""

    told: tuple[str, ...]
    by: str
    shown: tuple[str, ...]
    names: tuple[str, ...]


def tally_text(
    body: BoundTally, writer: Writer, aggregate: Callable[[b.Aggregate], str], group: Callable[[b.BoundValue], str]
) -> TallyText:
    """Return a tally; ``aggregate`` and ``group`` write its aggregates and groups. Raises ``NotSaidError``."""
    if body.along is not None and not body.sequence:
        raise not_said("along", "its columns are those of the rows; name the values: along … IN SEQUENCE (…)")
    groups = len(body.groups)
    told = [f'{group(value)} AS "yardcut {place}"' for place, value in enumerate(body.groups)]
    shown = [f'"yardcut {place}" AS {quoted_name(name)}' for place, name in enumerate(body.names)]
    cells = columns_along(body, body.sequence) if body.along is not None else [
        (column.name, column, None) for column in body.measures
    ]  # fmt: skip
    taken = list(dict.fromkeys(value for _, _, value in cells))
    for at, value in enumerate(taken):
        first = groups + at * len(body.aggregates)
        for place, each in enumerate(body.aggregates):
            own = each if value is None else replace(each, where=_both(body, each, value))
            told.append(f'{aggregate(own)} AS "yardcut {first + place}"')
    shift = groups + (body.along is not None)
    for name, column, value in cells:
        first = groups + taken.index(value) * len(body.aggregates)
        numbered = {shift + place: f"yardcut {first + place}" for place in range(len(body.aggregates))}
        shown.append(f"{Writer(writer.dialect, numbered, {}).value(column.value)} AS {quoted_name(name)}")
    by = f" GROUP BY {', '.join(str(place + 1) for place in range(groups))}" if groups else ""
    return TallyText(tuple(told), by, tuple(shown), (*body.names, *(name for name, _, _ in cells)))


def _both(body: BoundTally, aggregate: b.Aggregate, value: b.Constant) -> b.BoundCondition:
    """Return the condition on an aggregate's rows, and that they are those of a value along."""
    assert body.along is not None
    along = b.Piece(b.Compare("=", body.along, value))
    return along if aggregate.where is None else b.AllOf((aggregate.where, along))
