from __future__ import annotations

import threading

import pytest

from yardcut.core.errors import StoppedError
from yardcut.core.progress import CancelToken, Progress


def test_a_cancelled_token_stops_the_work() -> None:
    token = CancelToken()
    token.check()
    token.cancel()
    assert token.cancelled
    with pytest.raises(StoppedError):
        token.check()


def test_what_is_left_is_guessed_from_what_is_done() -> None:
    progress = Progress()
    progress.begin("reading", 200)
    progress.advance(50)
    assert progress.share == 0.25
    assert progress.seconds_left() is None  # too early to tell
    progress.started -= 10
    left = progress.seconds_left()
    assert left is not None
    assert 29 < left < 32
    progress.advance(500)
    assert (progress.share, progress.seconds_left()) == (1.0, None)
    assert Progress().share == 0.0


def test_counting_from_several_threads_loses_nothing() -> None:
    progress = Progress("counting", 8000)
    threads = [threading.Thread(target=lambda: [progress.advance(1) for _ in range(1000)]) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert progress.done == 8000


def test_progress_says_rows_a_second_once_it_can_tell() -> None:
    progress = Progress()
    progress.begin("reading", 1_000)
    progress.done, progress.rows = 250, 123_456
    assert progress.sentence() == "reading 25%"
    progress.started -= 2
    assert progress.sentence() == "reading 25%, 62,000 rows/s, 6 s left"
    progress.begin("ranking", 0)
    assert progress.sentence() == "ranking"


@pytest.mark.parametrize("label", ["reading", "x" * 44, "reading " + "a long name " * 40, "木" * 200])
def test_a_long_name_does_not_hide_the_figures(label: str) -> None:
    progress = Progress()
    progress.begin(label, 200)
    progress.advance(50)
    assert progress.sentence().endswith(" 25%")
    assert len(progress.sentence()) <= 48
    assert progress.sentence()[:43] == f"{label} 25%"[:43]
