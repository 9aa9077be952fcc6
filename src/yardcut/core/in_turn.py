"""Work that is carried out on threads a little ahead of whoever takes its results, in sequence."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Executor, Future
from typing import TypeVar

from yardcut.core.progress import CancelToken

_Result = TypeVar("_Result")


def in_turn(
    calls: Iterable[Callable[[], _Result]], pool: Executor, token: CancelToken, ahead: int
) -> Iterator[_Result]:
    """Yield what calls return, in their sequence; up to ``ahead`` wait or are carried out meanwhile.

    Raises what a call does, and ``StoppedError``; those that have not begun then are never carried out.
    """
    waiting: deque[Future[_Result]] = deque()
    try:
        for call in calls:
            token.check()
            waiting.append(pool.submit(call))
            if len(waiting) > ahead:
                yield waiting.popleft().result()
        while waiting:
            token.check()
            yield waiting.popleft().result()
    finally:
        for future in waiting:
            future.cancel()
