"""Answers as bits against three-valued logic written out row by row."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.expressions.testing.answers import Answers, all_of, any_of, is_truth, joined, of_test
from yardcut.core.table import bits as bit

Truth = bool | None
TRUTHS: list[Truth] = [True, False, None]
lists = st.lists(st.sampled_from(TRUTHS), min_size=1, max_size=40)


def answers_of(truths: list[Truth]) -> Answers:
    unknown = [truth is None for truth in truths]
    gone = bit.pack(np.array(unknown)) if any(unknown) else None
    # what stands where there is no answer must not matter
    return of_test(np.array([truth is not False for truth in truths]), gone)


def truths_of(answers: Answers) -> list[Truth]:
    true = bit.unpack(answers.true, 0, answers.rows).tolist()
    false = bit.unpack(answers.false, 0, answers.rows).tolist()
    return [True if yes else False if no else None for yes, no in zip(true, false, strict=True)]


def lowest(one: Truth, other: Truth) -> Truth:
    return False if False in (one, other) else None if None in (one, other) else True


def negation(truth: Truth) -> Truth:
    return None if truth is None else not truth


@given(lists)
def test_not_and_is(truths: list[Truth]) -> None:
    answers = answers_of(truths)
    assert truths_of(answers) == truths
    assert truths_of(answers.inverse()) == [negation(truth) for truth in truths]
    for wanted in TRUTHS:
        assert truths_of(is_truth(answers, wanted)) == [truth is wanted for truth in truths]


@given(st.lists(st.tuples(*[st.sampled_from(TRUTHS)] * 3), min_size=1, max_size=40))
def test_and_or(rows: list[tuple[Truth, Truth, Truth]]) -> None:
    items = [answers_of(list(column)) for column in zip(*rows, strict=True)]
    assert truths_of(all_of(items)) == [lowest(lowest(a, c), e) for a, c, e in rows]
    expected = [negation(lowest(lowest(negation(a), negation(c)), negation(e))) for a, c, e in rows]
    assert truths_of(any_of(items)) == expected


@given(lists, st.integers(0, 4))
def test_answers_of_parts_are_put_together(truths: list[Truth], cut: int) -> None:
    whole = (
        joined([answers_of(truths[: 8 * cut]), answers_of(truths[8 * cut :])]) if truths[8 * cut :] and cut else None
    )
    if whole is not None:
        assert truths_of(whole) == truths


@pytest.mark.parametrize(("first", "end"), [(0, 40), (8, 37), (3, 3), (5, 21), (39, 40), (0, 9)])
def test_a_window_of_bits(first: int, end: int) -> None:
    mask = np.random.default_rng(first).random(40) < 0.5
    bits = bit.pack(mask)
    assert bit.unpack(bits, first, end).tolist() == mask[first:end].tolist()
    assert bit.at(bits, np.arange(first, end)).tolist() == mask[first:end].tolist()
    if first % 8 == 0:
        assert bit.window(bits, first, end).tolist() == bit.pack(mask[first:end]).tolist()
    assert bit.count(bits) == int(mask.sum())


def test_the_memory_of_answers_is_that_of_all_their_bits() -> None:
    true, unknown = np.zeros(3, dtype=np.uint8), np.zeros(3, dtype=np.uint8)
    assert Answers(20, true).nbytes == 3
    assert Answers(20, true, unknown).nbytes == 6
