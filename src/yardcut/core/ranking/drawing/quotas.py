"""How many rows each group of a draw is asked for, and how many it gives."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from yardcut.core.errors import ListError, Mend
from yardcut.core.language.verbs.draw_parts import Amount, BoundDraw
from yardcut.core.ranking.drawing.allocation import highest_averages
from yardcut.core.ranking.drawing.drawn import Quotas
from yardcut.core.ranking.grouping.groups import GroupKey, Groups
from yardcut.core.table.array_file import Array
from yardcut.core.values.formatting import formatter

_MOST_WHOLE = 1 << 62


def rounded_share(rows: int, percent: Fraction | str) -> int:
    """Return a percentage of a number of rows, to the nearest row, halves up."""
    return int(rows * Fraction(percent) / 100 + Fraction(1, 2))


def quotas_of(work: BoundDraw, groups: Groups) -> Quotas:
    """Return how many rows each group is asked for and gives. Raises ``ListError`` for strata that are not there."""
    draw = work.draw
    if draw.form == "stratified":
        asked = _stratified(work, groups)
    elif draw.form == "part":
        asked = up_to_part(work, groups, int(draw.amount.written))
    else:
        asked = _asked(draw.amount, groups.counts)
    return Quotas(asked, np.minimum(asked, groups.counts))


def up_to_part(work: BoundDraw, groups: Groups, number: int) -> Array:
    """Return the rows of each group in the first ``number`` parts of a split; each boundary is rounded by itself."""
    share = sum((Fraction(part.written) for part in work.draw.split[:number]), Fraction(0))
    return _rounded_shares(groups.counts, share)


def _rounded_shares(counts: Array, percent: Fraction | str) -> Array:
    """Return a percentage of each of some numbers of rows, as :func:`rounded_share` does."""
    share = Fraction(percent) / 100
    if 2 * int(counts.max(initial=0)) * share.numerator + share.denominator < _MOST_WHOLE:
        return (2 * counts * share.numerator + share.denominator) // (2 * share.denominator)
    return np.array([rounded_share(count, percent) for count in counts.tolist()], dtype=np.int64)


def likely_limits(quotas: Array, counts: Array) -> Array:
    """Return ranks that almost surely let enough rows of each group through, so that few need be looked at.

    Eight standard deviations above the expected rank; a draw that comes out short is made again without.
    """
    expected = quotas / np.maximum(counts, 1)
    share = np.minimum(expected + 8 * np.sqrt((expected + 1 / np.maximum(counts, 1)) / np.maximum(counts, 1)), 1.0)
    return np.array([min(int(part * 2.0**64), (1 << 64) - 1) for part in share.tolist()], dtype=np.uint64)


def group_text(key: GroupKey, work: BoundDraw) -> str:
    """Return a group's values as the grid shows them."""
    words = []
    for part, value in zip(key, work.groups, strict=True):
        words.append("no value" if part is None else formatter(value.kind)(part))
    return " ".join(words)


def _asked(amount: Amount, counts: Array) -> Array:
    if amount.percent:
        return _rounded_shares(counts, amount.written)
    return np.full(len(counts), int(amount.written), dtype=np.int64)


def _stratified(work: BoundDraw, groups: Groups) -> Array:
    draw = work.draw
    strata = draw.strata
    if work.shares:
        return _named(work, groups)
    total = int(draw.amount.written)
    if strata is None or strata.how == "proportional":
        return highest_averages(groups.counts, total)
    if strata.how == "equal":
        whole, rest = divmod(total, max(1, len(groups.counts)))
        return whole + (np.arange(len(groups.counts)) < rest).astype(np.int64)
    start = np.minimum(groups.counts, strata.least)
    least = int(start.sum())
    if total < least:
        raise ListError(
            f"{strata.least} from each of {len(groups.counts):,} groups is {least:,} rows, more than {total:,}",
            start=strata.span[0], end=strata.span[1], mend=Mend(f"draw {least:,} or more, or fewer from each"),
        )  # fmt: skip
    given = highest_averages(groups.counts, total, strata.least)
    return np.where(groups.counts < strata.least, strata.least, given)


def _named(work: BoundDraw, groups: Groups) -> Array:
    """Return what the strata that are named give, and the others."""
    index = groups.index
    named: dict[GroupKey, Amount] = {}
    others = Amount("0")
    for share in work.shares:
        if share.key is None:
            others = share.amount
            continue
        if share.key not in index:
            near = ", ".join(group_text(key, work) for key in groups.keys[:5])
            more = " and others" if len(groups.keys) > 5 else ""
            said = f"there is no group {share.text} among the rows here"
            raise ListError(said, start=share.span[0], end=share.span[1],
                            mend=Mend(f"there are {near}{more}"))  # fmt: skip
        if share.key in named:
            raise ListError(f"{share.text} stands twice in this draw", start=share.span[0], end=share.span[1])
        named[share.key] = share.amount
    return np.array(
        [
            int(_asked(named.get(key, others), np.array([count]))[0])
            for key, count in zip(groups.keys, groups.counts.tolist(), strict=True)
        ],
        dtype=np.int64,
    )
