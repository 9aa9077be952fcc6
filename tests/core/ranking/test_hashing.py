"""The rank by chance is part of the language: these vectors stand in docs/language.md and never change."""

from fractions import Fraction

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from vectors import VECTORS
from yardcut.core.ranking.hashing import chance_limit, mix, row_rank, row_ranks


def test_the_generator_is_splitmix64() -> None:
    # the first outputs for the state 1234567, as published with the generator
    state, outputs = 1234567, []
    for _ in range(5):
        outputs.append(mix(state))
        state = (state + 0x9E3779B97F4A7C15) % 2**64
    assert outputs == [
        6457827717110365317, 3203168211198807973, 9817491932198370423, 4593380528125082431, 16408922859458223821,
    ]  # fmt: skip


def test_ranks_are_those_of_the_documentation() -> None:
    assert [row_rank(*vector[:3]) for vector in VECTORS] == [vector[3] for vector in VECTORS]


@given(st.integers(0, 2**63 - 1), st.integers(0, 1000), st.lists(st.integers(0, 2**40), min_size=1, max_size=20))
def test_the_fast_ranks_agree_with_the_plain_definition(seed: int, file_number: int, rows: list[int]) -> None:
    fast = row_ranks(seed, file_number, np.array(rows, dtype=np.int64)).tolist()
    assert fast == [row_rank(seed, file_number, row) for row in rows]


def test_a_chance_is_exact() -> None:
    assert chance_limit(Fraction(1)) == 2**64
    assert chance_limit(Fraction(0)) == 0
    assert chance_limit(Fraction("0.5")) == 2**63
    assert chance_limit(Fraction(1, 10)) == 2**64 // 10


def test_ranks_look_evenly_spread() -> None:
    ranks = row_ranks(7, 0, np.arange(100_000)) >> np.uint64(60)
    counts = np.bincount(ranks.astype(np.int64), minlength=16)
    # sixteen equal drawers: five standard deviations of a binomial count
    assert abs(counts - 6250).max() < 5 * (100_000 / 16 * 15 / 16) ** 0.5
