"""A column's distribution as a picture: a bar for each value, or for intervals whose width is turned."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from yardcut.core.errors import ListError, Mend
from yardcut.core.expressions.frame import Frame
from yardcut.core.expressions.zones import zone_of
from yardcut.core.language.meaning.bound import BoundValue, ShownColumn
from yardcut.core.pictures.bar_data import MOST_BARS, Bars, Series
from yardcut.core.profile.bar_widths import Widths, heaps, intervals
from yardcut.core.profile.distinct import DistinctValues, distinct_values
from yardcut.core.profile.gathering import GatherRound
from yardcut.core.profile.summary import in_order
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table.array_file import Array
from yardcut.core.values.formatting import formatter
from yardcut.core.values.kinds import Kind

MOST_VALUES = 30
"""Of one picture: a column of more is drawn in intervals, or the rest of its values as one."""
INFINITE = "infinite"
"""The label of numbers without an interval."""


@dataclass(frozen=True, slots=True)
class Distribution:
    """A drawn distribution, how much ``finer`` than by themselves its intervals came out, and how coarse and fine
    they can be.
    """

    bars: Bars
    finer: int = 0
    coarsest: int = 0
    finest: int = 0


def distribution_bars(
    column: ShownColumn, frame: Frame, label: str, runner: Runner, token: CancelToken, finer: int = 0
) -> Distribution:
    """Return the rows of each value of a column, or of intervals of equal width of its numbers and moments.

    ``finer`` asks for narrower intervals by so many steps of round widths, or wider ones below 0; few different
    values have a bar each unless wider ones are asked for.
    """
    value, rows, runner = column.value, frame.rows, runner.over(frame.table)
    found = distinct_values(value, rows, runner, token, most=MOST_VALUES)
    title, is_few = f"{column.name}, {label}", found.distinct <= MOST_VALUES
    pairs = _values(value.kind, found)
    drawn = Distribution(Bars(title, "rows", (), ()))
    if value.kind not in (Kind.TEXT, Kind.BOOLEAN) and found.distinct > 1:
        values, infinite = _finite(value, frame, runner, token)
        widths = Widths(value.kind, *_ends(values), MOST_BARS)
        drawn = replace(drawn, coarsest=widths.clamped(-_ANY), finest=0 if is_few else widths.clamped(_ANY))
        if not is_few or finer < 0:
            drawn = replace(drawn, finer=widths.clamped(finer))
            pairs = _intervals(values, widths, drawn.finer, zone_of(value, runner.table))
            pairs += [(INFINITE, infinite, f"{infinite:,}")] if infinite else []
    if found.missing:
        pairs.append(("no value", found.missing, f"{found.missing:,}"))
    if not pairs:
        raise ListError(f"{column.name} has no rows here to draw", mend=Mend("go to a line that leaves some"))
    labels, counts, texts = zip(*pairs, strict=True)
    return replace(drawn, bars=Bars(title, "rows", labels, (Series("rows", tuple(map(float, counts)), texts),)))


_Bar = tuple[str, int, str]
"""A label, the rows, and what stands beside them."""
_ANY = 200


def _values(kind: Kind, found: DistinctValues) -> list[_Bar]:
    """Return a bar for each value, texts by their rows; what are too many come together in one."""
    pairs = sorted(found.values, key=lambda pair: -pair[1]) if kind is Kind.TEXT else list(found.values)
    others = found.rows - found.missing - sum(count for _, count in pairs)
    if others:
        pairs.append((f"{found.distinct - len(pairs):,} other values", others))
    return [(text, count, f"{count:,}") for text, count in pairs]


def _finite(value: BoundValue, frame: Frame, runner: Runner, token: CancelToken) -> tuple[Array, int]:
    """Return the present values sorted, and how many more are infinite."""
    values = runner.run(GatherRound(value, frame.rows.bits), token).values
    assert values is not None
    finite = in_order(values[np.isfinite(values)] if values.dtype.kind == "f" else values)
    return finite, len(values) - len(finite)


def _ends(values: Array) -> tuple[float, float]:
    return (values[0].item(), values[-1].item()) if len(values) else (0.0, 0.0)


def _intervals(values: Array, widths: Widths, finer: int, zone: str) -> list[_Bar]:
    """Count sorted values in intervals of a round width, each with its lower end and without its upper one.

    A value that heaps up inside its interval is said behind the count.
    """
    inner, labels = intervals(widths.kind, widths.least, widths.most, widths.width(finer), zone)
    starts = np.concatenate(([0], np.searchsorted(values, inner))).astype(np.int64)
    counts = np.diff(np.append(starts, len(values))).tolist()
    write = formatter(widths.kind, zone)
    texts = [
        f"{count:,}" if heap is None else f"{count:,} · {heap[1]:,} rows at {write(heap[0])}"
        for count, heap in zip(counts, heaps(values, starts), strict=True)
    ]
    return list(zip(labels, counts, texts, strict=True))
