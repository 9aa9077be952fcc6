"""Draws by chance are fair: counted over many seeds, with checks that a biased sampler does not pass."""

from __future__ import annotations

import itertools
from collections.abc import Callable

import numpy as np
import pytest

from helpers import is_usual
from yardcut.core.ranking.drawing.weighting import weighted_ranks
from yardcut.core.ranking.hashing import row_ranks
from yardcut.core.table.array_file import Array

ROWS, TAKEN, SEEDS = 20, 6, 2500
Sampler = Callable[[int], Array]
"""Returns the rows drawn under a seed, first drawn first."""


def fair(seed: int) -> Array:
    return np.argsort(row_ranks(seed, 0, np.arange(ROWS)), kind="stable")[:TAKEN]


def first_row_favoured(seed: int) -> Array:
    """One time in twelve it makes sure of the first row."""
    drawn = fair(seed)
    return drawn if seed % 12 or 0 in drawn else np.concatenate((np.array([0]), drawn[1:]))


def neighbours_together(seed: int) -> Array:
    """Every row has its chance, but rows come in twos."""
    pairs = np.argsort(row_ranks(seed, 0, np.arange(ROWS // 2)), kind="stable")[: TAKEN // 2]
    return np.concatenate((2 * pairs, 2 * pairs + 1))


def rows_are_fair(sampler: Sampler) -> bool:
    counts = np.bincount(np.concatenate([sampler(seed) for seed in range(SEEDS)]), minlength=ROWS)
    # without replacement the counts vary less than independent ones, by (N - n) / (N - 1)
    less = np.sqrt((ROWS - TAKEN) / (ROWS - 1))
    expected = np.full(ROWS, SEEDS * TAKEN / ROWS)
    return is_usual(expected + (counts - expected) / less, expected, ROWS - 1)


def pairs_are_fair(sampler: Sampler) -> bool:
    counts = np.zeros((ROWS, ROWS))
    for seed in range(SEEDS):
        for one, other in itertools.combinations(sorted(sampler(seed).tolist()), 2):
            counts[one, other] += 1
    observed = counts[np.triu_indices(ROWS, 1)]
    expected = np.full(len(observed), SEEDS * TAKEN * (TAKEN - 1) / (ROWS * (ROWS - 1)))
    return is_usual(observed, expected, len(observed) - 1)


def test_every_row_and_every_pair_has_the_same_chance() -> None:
    assert rows_are_fair(fair)
    assert pairs_are_fair(fair)


def test_a_biased_sampler_is_caught() -> None:
    assert not rows_are_fair(first_row_favoured)
    assert rows_are_fair(neighbours_together)  # each row by itself has its chance
    assert not pairs_are_fair(neighbours_together)


WEIGHTS = np.array([1.0, 2.0, 3.0, 4.0, 10.0, 0.5])


def by_weight(seed: int) -> Array:
    return np.argsort(weighted_ranks(row_ranks(seed, 0, np.arange(len(WEIGHTS))), WEIGHTS), kind="stable")


def by_weighted_luck(seed: int) -> Array:
    """Ranks by chance times weight: looks right, and favours heavy rows too much."""
    luck = row_ranks(seed, 0, np.arange(len(WEIGHTS))).astype(np.float64) * WEIGHTS
    return np.argsort(-luck, kind="stable")


def weights_are_met(sampler: Sampler) -> bool:
    """The first row drawn, and the second behind each first one, are as the weights say (Efraimidis and Spirakis)."""
    drawn = np.array([sampler(seed)[:2] for seed in range(3 * SEEDS)])
    share = WEIGHTS / WEIGHTS.sum()
    firsts = np.bincount(drawn[:, 0], minlength=len(WEIGHTS))
    if not is_usual(firsts, share * len(drawn), len(WEIGHTS) - 1):
        return False
    pairs, expected = [], []
    for one, other in itertools.permutations(range(len(WEIGHTS)), 2):
        pairs.append(int(((drawn[:, 0] == one) & (drawn[:, 1] == other)).sum()))
        expected.append(len(drawn) * share[one] * share[other] / (1 - share[one]))
    return is_usual(np.array(pairs), np.array(expected), len(pairs) - 1)


@pytest.mark.long
def test_weights_are_chances_among_the_rows_that_are_left() -> None:
    assert weights_are_met(by_weight)
    assert not weights_are_met(by_weighted_luck)


@pytest.mark.parametrize("bits", [0, 11, 40, 63])
def test_no_bit_of_a_rank_leans_to_one_side(bits: int) -> None:
    ranks = row_ranks(7, 0, np.arange(40_000))
    ones = int(((ranks >> np.uint64(bits)) & np.uint64(1)).sum())
    assert abs(ones - 20_000) < 4 * 100
    neighbours = int((((ranks[1:] ^ ranks[:-1]) >> np.uint64(bits)) & np.uint64(1)).sum())
    assert abs(neighbours - 20_000) < 4 * 100


def test_ranks_by_weight_are_the_same_everywhere() -> None:
    """They are part of the language: docs/language.md has them."""
    ranks = row_ranks(7, 0, np.arange(4))
    found = weighted_ranks(ranks, np.array([1.0, 2.5, 0.0, 1e9])).tolist()
    assert found == [4602593960500664491, 4600110696229607883, 18446744073709551615, 4477608291454294558]
