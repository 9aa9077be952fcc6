"""How far a server looks into the ranks of a group: never so little that a draw might come out short."""

from __future__ import annotations

import math
import random

import numpy as np

from yardcut.core.ranking.drawing.drawn import Quotas
from yardcut.core.ranking.grouping.groups import Groups
from yardcut.core.sql.strata_there import Sizes

RARELY = -60.0
"""Natural logarithm of the chance of a group that comes out short: of 10,000 groups less than once in 10^20 draws."""


def short_chance(rows: int, share: float, wanted: int) -> float:
    """Return the logarithm of a bound on the chance that fewer than so many of the rows lie in a share (Chernoff)."""
    if share >= 1 or wanted == 0:
        return -math.inf
    mean, most = rows * share, wanted - 1
    return most - mean + (most * math.log(mean / most) if most else 0.0)


def test_no_group_comes_out_short() -> None:
    chance = random.Random(3)
    for _ in range(3000):
        rows = int(10 ** chance.uniform(0, 9))
        wanted = min(rows, chance.choice([0, 1, 2, 5, int(10 ** chance.uniform(0, 8)), rows]))
        before = chance.randint(0, rows - wanted)
        given = np.array([wanted])
        sizes = Sizes(Groups([("oak",)], np.array([rows])), ["(oak)"], np.array([before]), Quotas(given, given))
        ((_, first, end, near),) = sizes.numbers()
        assert (first, end) == (before, before + wanted)
        assert -(1 << 63) <= near < 1 << 63
        assert short_chance(rows, (near + (1 << 63) + 1) / 2**64, end) < RARELY
