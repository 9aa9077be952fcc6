"""What a make line gives: its columns' kinds and first values, and why values are missing."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from yardcut.core.language.meaning.bound_parts import unwrapped
from yardcut.core.language.verbs.make import BoundMake
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.unanswered import Counts, absence_counts
from yardcut.core.scanning.rounds import Runner
from yardcut.core.values.kinds import Kind

_FIRST_VALUES = 5


@dataclass(frozen=True, slots=True)
class MadeColumn:
    """A column that a line makes, over the rows that reach it.

    ``first`` are its first values (``None``: missing); ``missing`` counts the rows without one, by reason, or is
    ``None`` while that is not known.
    """

    name: str
    kind: Kind
    first: tuple[str | None, ...]
    rows: int
    missing: Counts | None = None


def made_columns(result: LineResult, runner: Runner, token: CancelToken) -> Iterator[tuple[MadeColumn, ...]]:
    """Yield what a make line gives: at once without the counts, then with them; nothing for other lines."""
    body = result.line.bound.body if result.line.bound is not None else None
    if not isinstance(body, BoundMake):
        return
    frame = result.frame
    places = [next(at for at, shown in enumerate(frame.columns) if shown.id == column.id) for column in body.made
              if any(shown.id == column.id for shown in frame.columns)]  # fmt: skip
    cells = frame.page(0, min(_FIRST_VALUES, frame.rows.count), places).cells
    made = tuple(
        MadeColumn(frame.columns[place].name, frame.columns[place].kind, first, frame.rows.count)
        for place, first in zip(places, cells, strict=True)
    )
    yield made
    values = tuple(unwrapped(frame.columns[place].value) for place in places)
    counts = absence_counts(values, result.before.rows, runner.over(result.before.table), token)
    yield tuple(replace(column, missing=missing) for column, missing in zip(made, counts, strict=True))
