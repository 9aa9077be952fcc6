"""By which columns two tables likely belong together: told by names, and by the values they share."""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector
from yardcut.core.table.window import Scatter
from yardcut.core.values.kinds import Kind, comparable
from yardcut.core.values.temporal import DAY_MICROSECONDS

_ROWS_HERE, _ROWS_THERE = 4_000, 20_000
_MOST_COLUMNS = 200
_MOST_PROPOSALS, _MOST_LATEST = 12, 6
_MOMENTS = (Kind.DATE, Kind.TIMESTAMP, Kind.INSTANT)
_SAME_NAME, _LIKE_NAME = 1.0, 0.6
_LEAST_SHARE = 0.02


@dataclass(frozen=True, slots=True)
class KeyProposal:
    """A column here and one there.

    ``found`` is the share of the values here that stand there, ``met`` the share of those there that stand here: of
    the values that were looked at, all of them where ``is_whole``. ``doubled`` tells that a value stands there twice.
    With ``is_latest`` they are moments: ``found`` is the share of those here that one there is not after, ``met`` that
    of those there that are not after one here.
    """

    ours: str
    theirs: str
    found: float
    met: float
    is_whole: bool
    doubled: bool = False
    is_latest: bool = False


def propose_keys(here: Frame, there: Frame, name: str, token: CancelToken) -> list[KeyProposal]:
    """Return the likeliest keys, the best first; ``name`` is that of the second table. Raises ``StoppedError``."""
    scored: list[tuple[float, KeyProposal]] = []
    ours = {column.name: column for column in _nearest_first(here.columns, there.columns, name)[:_MOST_COLUMNS]}
    seen: dict[str, _Values] = {}
    for column in there.columns[:_MOST_COLUMNS]:
        theirs = _values(there, column, _ROWS_THERE)
        for own in ours.values():
            token.check()
            if not comparable(own.kind, column.kind) or own.kind in (Kind.BOOLEAN, Kind.NUMBER):
                continue
            if own.name not in seen:
                seen[own.name] = _values(here, own, _ROWS_HERE)
            found = _proposal(own.name, seen[own.name], column.name, theirs)
            likeness = _likeness(own.name, column.name, name)
            if found.found >= _LEAST_SHARE or likeness == _SAME_NAME:
                key_like = len(theirs.different) / max(1, theirs.count)  # a key tells most rows there apart
                scored.append((found.found + likeness + key_like, found))
    scored.sort(key=lambda pair: -pair[0])
    return [proposal for _, proposal in scored[:_MOST_PROPOSALS]]


def propose_latest(here: Frame, there: Frame, token: CancelToken) -> list[KeyProposal]:
    """Return moments by which the nearest earlier row of a key may be meant, the likeliest first.

    Raises ``StoppedError``.
    """
    ours = [(column.name, _moments(here, column, _ROWS_HERE)) for column in here.columns if column.kind in _MOMENTS]
    found = []
    for column in there.columns:
        if column.kind not in _MOMENTS:
            continue
        theirs = _moments(there, column, _ROWS_THERE)
        for name, values in ours:
            token.check()
            if len(values) and len(theirs):
                shares = float((values >= theirs.min()).mean()), float((theirs <= values.max()).mean())
                whole = here.rows.count <= _ROWS_HERE and there.rows.count <= _ROWS_THERE
                found.append(KeyProposal(name, column.name, *shares, whole, is_latest=True))
    return sorted(found, key=lambda each: -min(each.found, each.met))[:_MOST_LATEST]


def _moments(frame: Frame, column: ShownColumn, most: int) -> Array:
    """Return the moments of rows taken evenly from all over, in microseconds."""
    vector = evaluate(column.value, Scatter(frame.table, _some(frame, most)))
    assert isinstance(vector, NumericVector)
    mask = vector.missing_mask()
    values = vector.values if mask is None else vector.values[~mask]
    return values.astype(np.int64) * (DAY_MICROSECONDS if column.kind is Kind.DATE else 1)


@dataclass(frozen=True, slots=True)
class _Values:
    different: frozenset[str]
    count: int
    is_whole: bool


def _values(frame: Frame, column: ShownColumn, most: int) -> _Values:
    """Return the different values of rows taken evenly from all over."""
    window = Scatter(frame.table, _some(frame, most))
    texts = [text for text in evaluate(column.value, window).texts() if text is not None]
    return _Values(frozenset(texts), len(texts), frame.rows.count <= most)


def _some(frame: Frame, most: int) -> Array:
    """Return the ids of so many rows."""
    rows = frame.rows.count
    ids = frame.rows.ids(0, rows)
    return ids if rows <= most else ids[np.linspace(0, rows - 1, most).astype(np.int64)]


def _proposal(ours: str, here: _Values, theirs: str, there: _Values) -> KeyProposal:
    both = len(here.different & there.different)
    return KeyProposal(
        ours, theirs, both / max(1, len(here.different)), both / max(1, len(there.different)),
        here.is_whole and there.is_whole, there.count > len(there.different),
    )  # fmt: skip


def _likeness(ours: str, theirs: str, name: str) -> float:
    """Tell how like two names are; ``mill_id`` is ``id`` of a table called ``mills``."""
    one, other = ours.casefold(), theirs.casefold()
    if one == other:
        return _SAME_NAME
    word = re.sub(r"\W+", "_", name.casefold()).rstrip("s")
    return _LIKE_NAME if one in (f"{word}_{other}", f"{word}{other}", word) or other in (f"{word}_{one}",) else 0.0


def _nearest_first(ours: Sequence[ShownColumn], theirs: Sequence[ShownColumn], name: str) -> list[ShownColumn]:
    """Return columns, those first that are called like one there."""
    return sorted(ours, key=lambda own: -max((_likeness(own.name, each.name, name) for each in theirs), default=0.0))
