"""Whether the rows of a draw look like those they were drawn from: shares and means of columns in both."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence

import numpy as np

from yardcut.core.expressions.frame import Frame
from yardcut.core.expressions.zones import zone_of
from yardcut.core.language.meaning.bound import BoundValue, ShownColumn
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.profile.gathering import Gathered, GatherRound
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table.array_file import Array
from yardcut.core.values.formatting import format_rounded, formatter
from yardcut.core.values.kinds import Kind

_MOST_PORTIONS, _INTERVALS = 12, 5
_MOST_TEXTS = 1_000
"""A text column with more different values than this is left out: its shares say nothing."""
_LEAST_EXPECTED = 5.0
"""Rows expected of a portion in a draw before its share is called uneven (the usual rule of chi-square tests)."""
USUAL = 1.96
"""Standard errors within which 95 of 100 draws stay."""


@dataclass(frozen=True, slots=True)
class Portion:
    """One value, or one interval of values: the rows that have it in the whole and in the draw."""

    label: str
    whole: int
    drawn: int


@dataclass(frozen=True, slots=True)
class Means:
    """The mean of a column in the whole and in the draw, and the standard error of the latter."""

    whole: str
    drawn: str
    error: str
    distance: float


@dataclass(frozen=True, slots=True)
class ColumnBalance:
    """A column in a draw of ``drawn`` rows beside the ``whole`` it is of; missing values are a portion of their own.

    ``replaced`` is True where each row was drawn from all of them anew.
    """

    name: str
    portions: tuple[Portion, ...]
    whole: int
    drawn: int
    means: Means | None = None
    replaced: bool = False

    def shares(self, portion: Portion) -> tuple[float, float]:
        """Return the share of a portion in the whole and in the draw."""
        return portion.whole / max(1, self.whole), portion.drawn / max(1, self.drawn)

    def error(self, portion: Portion) -> float:
        """Return the standard error of a share in a simple random draw (Cochran, 1977, 3.2, and 2.9 if replaced)."""
        share = portion.whole / max(1, self.whole)
        rest = 1.0 if self.replaced else (self.whole - self.drawn) / max(1, self.whole - 1)
        return math.sqrt(max(0.0, share * (1 - share) / max(1, self.drawn) * rest))

    def distance(self, portion: Portion) -> float:
        """Return how many standard errors the draw is from the whole; 0 where too few rows are expected to say."""
        expected = portion.whole * self.drawn / max(1, self.whole)
        error = self.error(portion)
        if expected < _LEAST_EXPECTED or not error:
            return 0.0
        whole, drawn = self.shares(portion)
        return abs(drawn - whole) / error

    @property
    def worst(self) -> Portion | None:
        """The portion whose share differs most, by standard errors."""
        return max(self.portions, key=self.distance, default=None)

    @property
    def unevenness(self) -> float:
        """The largest distance of a portion, or of the mean."""
        worst = 0.0 if self.worst is None else self.distance(self.worst)
        return max(worst, 0.0 if self.means is None else self.means.distance)


def column_balances(
    columns: Sequence[ShownColumn], whole: Frame, drawn: Frame, runner: Runner, token: CancelToken
) -> Iterator[ColumnBalance]:
    """Yield the balance of each column that has one, in turn. Raises ``StoppedError``."""
    for column in columns:
        token.check()
        whole.table.load(columns_of(column.value), token)
        found = _balance(column, whole, drawn, runner, token)
        if found is not None:
            yield found


def _balance(column: ShownColumn, of: Frame, draw: Frame, runner: Runner, token: CancelToken) -> ColumnBalance | None:
    whole, drawn = of.rows, draw.rows
    of_whole = runner.over(of.table).run(GatherRound(column.value, whole.bits), token)
    if of_whole.counts is None and column.kind is Kind.TEXT:
        return None
    of_drawn = runner.over(draw.table).run(GatherRound(column.value, drawn.member_bits()), token)
    means, replaced = None, draw.table is not of.table
    if of_whole.counts is not None:
        pairs = _texts(of_whole, of_drawn)
        if len(pairs) > _MOST_TEXTS:
            return None
    else:
        pairs, means = _numbers(column.value, of_whole, of_drawn, zone_of(column.value, of.table), replaced)
    missing = Portion(
        "no value", whole.count - sum(each.whole for each in pairs), drawn.count - sum(each.drawn for each in pairs)
    )
    portions = _joined(pairs)
    if missing.whole:
        portions.append(missing)
    return ColumnBalance(column.name, tuple(portions), whole.count, drawn.count, means, replaced)


def _texts(whole: Gathered, drawn: Gathered) -> list[Portion]:
    assert whole.dictionary is not None
    assert whole.counts is not None
    of_drawn: dict[str, int] = {}
    if drawn.dictionary is not None and drawn.counts is not None:
        of_drawn = dict(zip(drawn.dictionary.texts, drawn.counts.tolist(), strict=True))
    counted = zip(whole.dictionary.texts, whole.counts.tolist(), strict=True)
    return [Portion(text, count, of_drawn.get(text, 0)) for text, count in counted if count]


def _joined(pairs: list[Portion]) -> list[Portion]:
    """Return the portions, the commonest of many apart and the others as one."""
    if len(pairs) <= _MOST_PORTIONS:
        return pairs
    most = sorted(pairs, key=lambda each: -each.whole)
    rest = most[_MOST_PORTIONS:]
    others = Portion(f"{len(rest):,} others", sum(each.whole for each in rest), sum(each.drawn for each in rest))
    return [*most[:_MOST_PORTIONS], others]


def _numbers(
    value: BoundValue, whole: Gathered, drawn: Gathered, zone: str, replaced: bool
) -> tuple[list[Portion], Means | None]:
    """Return intervals between quantiles of the whole, or single values where there are few, and the means."""
    assert whole.values is not None
    assert drawn.values is not None
    write = formatter(value.kind, zone)
    one, other = whole.values + 0, drawn.values + 0
    if not len(one):
        return [], None
    different = np.unique(one[: 1 << 16])
    if len(different) <= _MOST_PORTIONS and np.isin(one, different).all():
        shown = [
            Portion(write(_plain(each, value.kind)), int((one == each).sum()), int((other == each).sum()))
            for each in different
        ]
        return shown, _means(value, one, other, replaced)
    edges = np.unique(np.quantile(one, [place / _INTERVALS for place in range(1, _INTERVALS)], method="lower"))
    labels = [write(_plain(edge, value.kind)) for edge in edges]
    names = [
        f"up to {labels[0]}",
        *(f"over {low} to {high}" for low, high in itertools.pairwise(labels)),
        f"over {labels[-1]}",
    ]
    counts = [np.bincount(np.searchsorted(edges, each), minlength=len(edges) + 1).tolist() for each in (one, other)]
    portions = [Portion(name, *both) for name, *both in zip(names, *counts, strict=True)]
    return [each for each in portions if each.whole], _means(value, one, other, replaced)


def _plain(number: np.generic, kind: Kind) -> float | int:
    return float(number) if kind is Kind.NUMBER else int(number)


def _means(value: BoundValue, whole: Array, drawn: Array, replaced: bool) -> Means | None:
    """Return the means of numbers with the standard error of the drawn one (Cochran, 1977, 2.6)."""
    if not value.kind.is_numeric or not len(drawn):
        return None
    one, other = whole.astype(np.float64), drawn.astype(np.float64)
    with np.errstate(all="ignore"):
        mean, of_drawn, spread = float(one.mean()), float(other.mean()), float(one.std())
        rest = 1.0 if replaced else (len(one) - len(other)) / max(1, len(one) - 1)
        error = spread / math.sqrt(len(other)) * math.sqrt(max(0.0, rest))
    if not all(map(math.isfinite, (mean, of_drawn, error))):
        return None
    distance = abs(of_drawn - mean) / error if error else 0.0
    return Means(format_rounded(mean, 4), format_rounded(of_drawn, 4), format_rounded(USUAL * error, 2), distance)
