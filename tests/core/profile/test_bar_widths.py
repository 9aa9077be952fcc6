"""Intervals of round width and heaps in them, against plain Python."""

from __future__ import annotations

import random
from collections import Counter
from fractions import Fraction

import numpy as np
import pytest

from yardcut.core.profile.bar_widths import Widths, heaps, intervals
from yardcut.core.values.kinds import Kind

KINDS = [Kind.INTEGER, Kind.NUMBER, Kind.DATE, Kind.TIMESTAMP]


def _range(kind: Kind, chance: random.Random) -> tuple[float, float]:
    size = 10.0 ** chance.uniform(-8 if kind is Kind.NUMBER else 0, 15 if kind is Kind.TIMESTAMP else 6)
    least = chance.uniform(-size, size)
    ends = least, least + chance.random() * size
    return ends if kind is Kind.NUMBER else (int(ends[0]), int(ends[1]))


@pytest.mark.few(60)
@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("seed", range(60))
def test_widths_grow_step_by_step_between_the_finest_and_the_coarsest(kind: Kind, seed: int) -> None:
    least, most = _range(kind, random.Random(f"{kind}{seed}"))
    widths = Widths(kind, least, most, 200)
    coarsest, finest = widths.clamped(-300), widths.clamped(300)
    assert coarsest <= 0 <= finest
    found = [widths.width(finer) for finer in range(coarsest, finest + 1)]
    assert found == sorted(set(found), reverse=True)
    assert [widths.clamped(finer) for finer in range(coarsest, finest + 1)] == list(range(coarsest, finest + 1))
    assert widths.bars(widths.width(0)) <= 22
    assert widths.bars(found[-1]) <= 200
    if kind is not Kind.NUMBER:
        assert all(width == int(width) >= 1 for width in found)
    elif most > least:
        # a digit 1, 2 or 5 and zeros
        assert all(Fraction(f"{float(width):e}".split("e")[0]) in (1, 2, 5) for width in found)


@pytest.mark.parametrize("seed", range(40))
def test_every_value_stands_in_the_interval_its_label_says(seed: int) -> None:
    chance = random.Random(seed)
    values = sorted(round(chance.gauss(0, 10), chance.choice([0, 1, 2])) for _ in range(chance.choice([1, 2, 50, 400])))
    widths = Widths(Kind.NUMBER, values[0], values[-1], 200)
    for finer in range(widths.clamped(-300), widths.clamped(300) + 1):
        inner, labels = intervals(Kind.NUMBER, values[0], values[-1], widths.width(finer), "")
        counts = np.bincount(np.searchsorted(inner, values, side="right"), minlength=len(labels)).tolist()
        for label, count in zip(labels, counts, strict=True):
            low, high = map(float, label.split(" to below "))
            assert count == sum(low <= value < high for value in values)
        assert sum(counts) == len(values)


@pytest.mark.few(50)
@pytest.mark.parametrize("seed", range(200))
def test_a_heap_has_most_of_its_interval_and_several_times_what_the_others_have_each(seed: int) -> None:
    chance = random.Random(seed)
    spread, heap = chance.choice([2, 5, 40]), chance.randint(0, 30)
    values = [chance.randint(0, spread) for _ in range(chance.randint(0, 120))] + [heap] * chance.choice(
        [0, 3, 40, 300]
    )
    values.sort()
    width = chance.choice([1, 4, 10])
    bars = range(0, 41, width)
    ordered = np.array(values, dtype=np.int16)
    expected: list[tuple[int, int] | None] = []
    for low in bars:
        inside = Counter(value for value in values if low <= value < low + width)
        best = max(inside.items(), key=lambda pair: (pair[1], -pair[0]), default=(0, 0))
        others = sum(inside.values()) - best[1]
        is_heap = (
            len(inside) > 1
            and best[1] >= 10
            and best[1] >= (best[1] + others) / 5
            and best[1] >= 4 * others / (len(inside) - 1)
        )
        expected.append(best if is_heap else None)
    assert heaps(ordered, np.searchsorted(ordered, list(bars))) == expected


def test_a_heap_in_a_wide_bar_is_one() -> None:
    pressed = np.sort(np.concatenate((np.repeat(np.arange(62, 80) / 10, 14), np.full(147, 6.1))))
    assert heaps(pressed, [0]) == [(6.1, 147)]
    values = np.sort(np.concatenate((np.linspace(5, 9.9, 50).round(1), np.full(147, 6.1))))
    assert heaps(values, [0]) == [(6.1, 148)]
    assert heaps(values[:0], [0, 0]) == [None, None]
