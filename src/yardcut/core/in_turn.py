"""Work that is carried out on threads a little ahead of whoever takes its results, in sequence."""

from __future__ import annotations

import queue
import threading
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


def one_ahead(items: Iterable[_Result]) -> Iterator[_Result]:
    """Yield items, the next of which is made meanwhile, on a thread that no end of the process waits for.

    Raises what making them does.
    """
    made: queue.Queue[tuple[bool, _Result | BaseException | None]] = queue.Queue(maxsize=1)
    is_wanted = threading.Event()
    is_wanted.set()

    def make() -> None:
        try:
            for item in items:
                made.put((True, item))
                if not is_wanted.is_set():
                    return
        except BaseException as error:
            made.put((False, error))
        else:
            made.put((False, None))

    threading.Thread(target=make, name="ahead", daemon=True).start()
    try:
        while (found := made.get())[0]:
            yield found[1]  # type: ignore[misc] # an item stands behind True
    finally:
        is_wanted.clear()
        while not made.empty():  # who waits to put one more down goes on, and ends
            made.get_nowait()
    if found[1] is not None:
        raise found[1]  # type: ignore[misc] # an error, behind False
