"""Wrong regular expressions are a sentence, and nothing but the sentence."""

import contextlib
import os
from collections.abc import Iterator

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from thoroughness import examples
from yardcut.core.values.patterns import PatternError, compiled

WRONG = [
    "(a",
    "a)",
    "[a",
    "*",
    "a**b{",
    "(?P<n",
    "\\",
    "(?<=a)b",
    "a{1001}",
    "\\1",
    "[z-a]",
    "(?i",
    "\ud800",
    "(" * 2000,
]


@pytest.fixture
def screen() -> Iterator[int]:
    """What stands for the screen: the library writes past Python, to the descriptor itself."""
    reading, writing = os.pipe()
    os.set_blocking(reading, False)
    kept = os.dup(2)
    os.dup2(writing, 2)
    yield reading
    os.dup2(kept, 2)
    for number in (reading, writing, kept):
        os.close(number)


@pytest.mark.parametrize("source", WRONG)
def test_the_library_is_silent_and_the_sentence_is_plain(source: str, screen: int) -> None:
    with pytest.raises(PatternError) as wrong:
        compiled(source)
    assert not str(wrong.value).startswith("b'")
    with pytest.raises(BlockingIOError):
        os.read(screen, 1000)


@settings(max_examples=examples(300), deadline=None)
@given(st.text(alphabet="ab(|)*+?[]{}\\^$.,-1é\x00\ud800", max_size=12))
def test_any_text_is_compiled_or_refused(source: str) -> None:
    with contextlib.suppress(PatternError):
        compiled(source).search(b"ab")
