"""Finding bytes with arrays, against ``bytes.find``."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from thoroughness import examples
from yardcut.core.expressions.testing import byte_search
from yardcut.core.expressions.testing.byte_search import LONGEST, places_of


def found_in(data: bytes, wanted: bytes) -> list[int]:
    found = list(places_of(np.frombuffer(data, dtype=np.uint8), wanted))
    return np.concatenate(found).tolist() if found else []


def truth(data: bytes, wanted: bytes) -> list[int]:
    return [place for place in range(len(data)) if data.startswith(wanted, place)]


@settings(max_examples=examples(400), deadline=None)
@given(st.text("aab\nö", max_size=120), st.text("aabö", min_size=1, max_size=6), st.integers(1, 40))
def test_the_places_are_those_of_find(text: str, part: str, piece: int) -> None:
    data, wanted = text.encode(), part.encode()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(byte_search, "_PIECE_BYTES", piece)
        assert found_in(data, wanted) == truth(data, wanted)


@pytest.mark.few(2)
@pytest.mark.parametrize("size", [1, 2, 3, LONGEST])
def test_one_letter_all_over_is_found_everywhere(size: int) -> None:
    assert len(found_in(b"a" * 3_000_000, b"a" * size)) == 3_000_001 - size


def test_more_than_there_is_and_nothing_to_look_through() -> None:
    assert found_in(b"", b"a") == found_in(b"ab", b"abc") == []
