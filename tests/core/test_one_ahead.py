"""One item is made ahead of whoever takes them: in their order, errors in their place, none made that nobody wants."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator

import pytest

from yardcut.core.in_turn import one_ahead


def counted(made: list[int], most: int = 100, fails_at: int = -1) -> Iterator[int]:
    for number in range(most):
        if number == fails_at:
            raise OSError("the pipe broke")
        made.append(number)
        yield number


@pytest.mark.parametrize("most", [0, 1, 2, 50])
def test_items_come_in_their_order(most: int) -> None:
    assert list(one_ahead(counted([], most))) == list(range(most))


def test_an_error_comes_behind_what_was_made_before() -> None:
    taken = list[int]()
    with pytest.raises(OSError, match="the pipe broke"):
        for number in one_ahead(counted([], fails_at=7)):
            taken.append(number)
    assert taken == list(range(7))


def test_no_more_is_made_than_one_that_waits_and_one_in_hand() -> None:
    made = list[int]()
    items = one_ahead(counted(made))
    for number in range(5):
        assert next(items) == number
        time.sleep(0.02)
        assert len(made) <= number + 3


def test_who_takes_no_more_ends_the_making() -> None:
    made, before = list[int](), threading.active_count()
    items = one_ahead(counted(made))
    next(items)
    items.close()  # type: ignore[attr-defined] # a generator
    until = time.monotonic() + 5
    while threading.active_count() > before and time.monotonic() < until:
        time.sleep(0.01)
    assert threading.active_count() <= before
    assert len(made) < 6
