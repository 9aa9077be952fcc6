"""The bars of one column on two sides: what share of each side's rows has each value, or lies in each interval."""

from __future__ import annotations

import numpy as np

from yardcut.core.errors import ListError, Mend
from yardcut.core.expressions.zones import zone_of
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.pictures.bar_data import MOST_BARS, Bars, Series
from yardcut.core.profile.bar_widths import Widths, intervals
from yardcut.core.profile.distinct import distinct_values
from yardcut.core.profile.gathering import GatherRound
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.looking.distributions import MOST_VALUES
from yardcut.core.run.looking.two_sides import Side, shared_columns
from yardcut.core.table.array_file import Array
from yardcut.core.values.formatting import formatter
from yardcut.core.values.kinds import Kind, a_kind


@dataclass(frozen=True, slots=True)
class _Counts:
    """Rows of one side by the label of their value; ``others`` have a value that is not listed, ``missing`` none."""

    by_label: dict[str, int]
    missing: int
    others: int = 0

    @property
    def rows(self) -> int:
        return sum(self.by_label.values()) + self.others + self.missing


def beside_bars(here: Side, there: Side, name: str, token: CancelToken) -> Bars:
    """Return the shares of a column's values on both sides, in percent of each side's rows.

    Numbers and moments of many different values are counted in intervals of one width for both. Raises ``ListError``
    where the sides hold different kinds, or no row, and ``StoppedError``.
    """
    one, other = next(pair for pair in shared_columns(here, there) if pair[0].name == name)
    if one.kind is not other.kind and not (one.kind.is_numeric and other.kind.is_numeric):
        raise ListError(
            f"{name} is {a_kind(one.kind)} in {here.name} and {a_kind(other.kind)} in {there.name}",
            mend=Mend("a kind line below the source settles what it is"),
        )
    if not here.frame.rows.count and not there.frame.rows.count:
        raise ListError(f"{name} has no rows here to draw", mend=Mend("go to a line that leaves some"))
    if one.kind in (Kind.TEXT, Kind.BOOLEAN):
        labels, counts = _by_value([_texts(one, here, token), _texts(other, there, token)])
    else:
        labels, counts = _by_number((one, here), (other, there), token)
    has_others, has_missing = any(each.others for each in counts), any(each.missing for each in counts)
    series = []
    for side, each in zip((here, there), counts, strict=True):
        times = [each.by_label.get(label, 0) for label in labels]
        times += [each.others] * has_others + [each.missing] * has_missing
        shares = tuple(100 * count / max(1, each.rows) for count in times)
        series.append(Series(f"{side.name} ({each.rows:,} rows)", shares, tuple(f"{share:.1f}%" for share in shares)))
    labels += ["all other values"] * has_others + ["no value"] * has_missing
    return Bars(f"{name} in {here.name} and in {there.name}", "percent of the rows", tuple(labels), tuple(series))


def _texts(column: ShownColumn, side: Side, token: CancelToken) -> _Counts:
    found = distinct_values(column.value, side.frame.rows, side.runner, token)
    counts = dict(found.values)
    return _Counts(counts, found.missing, found.rows - found.missing - sum(counts.values()))


def _by_value(sides: list[_Counts]) -> tuple[list[str], list[_Counts]]:
    """Return the values with the largest shares on either side; what is left of them are others."""
    share: dict[str, float] = {}
    for each in sides:
        for text, times in each.by_label.items():
            share[text] = max(share.get(text, 0.0), times / max(1, each.rows))
    taken = sorted(share, key=lambda text: (-share[text], text))[:MOST_VALUES]
    listed = [{text: each.by_label.get(text, 0) for text in taken} for each in sides]
    return taken, [
        _Counts(counts, each.missing, each.rows - each.missing - sum(counts.values()))
        for counts, each in zip(listed, sides, strict=True)
    ]


def _by_number(
    one: tuple[ShownColumn, Side], other: tuple[ShownColumn, Side], token: CancelToken
) -> tuple[list[str], list[_Counts]]:
    """Count numbers or moments by value where there are few, else in intervals that hold for both sides."""
    sides = [_numbers(column, side, token) for column, side in (one, other)]
    value = other[0].value if other[0].kind is Kind.NUMBER else one[0].value  # of two kinds of number the wider one
    present = np.concatenate([each[np.isfinite(each)] if each.dtype.kind == "f" else each for each in sides])
    rows = [side.frame.rows.count for _, side in (one, other)]
    if not len(present):
        return [], [_Counts({}, count) for count in rows]
    zone = zone_of(one[0].value, one[1].runner.table)
    different = np.unique(present[: 1 << 16])
    if len(different) <= MOST_VALUES and np.isin(present, different).all():
        write = formatter(value.kind, zone)
        labels = [write(each.item()) for each in different]
        places = [np.searchsorted(different, each) for each in sides]
    else:
        widths = Widths(value.kind, present.min().item(), present.max().item(), MOST_BARS)
        inner, labels = intervals(value.kind, widths.least, widths.most, widths.width(0), zone)
        places = [np.searchsorted(inner, each, side="right") for each in sides]
    found = []
    for each, place, count in zip(sides, places, rows, strict=True):
        finite = np.isfinite(each) if each.dtype.kind == "f" else np.ones(len(each), dtype=np.bool_)
        times = np.bincount(place[finite], minlength=len(labels)).tolist()
        by_label = dict(zip(labels, times, strict=True))
        found.append(_Counts(by_label, count - len(each), int(len(each) - finite.sum())))
    return labels, found


def _numbers(column: ShownColumn, side: Side, token: CancelToken) -> Array:
    """Return the present values of one side (int64 or float64), in any order."""
    side.runner.table.load(columns_of(column.value), token)
    values = side.runner.run(GatherRound(column.value, side.frame.rows.bits), token).values
    assert values is not None
    return values + 0.0 if values.dtype.kind == "f" else values.astype(np.int64)
