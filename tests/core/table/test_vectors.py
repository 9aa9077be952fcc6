"""Copying texts from wherever they stand to wherever they go, against slices of bytes."""

from __future__ import annotations

import random

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from thoroughness import examples
from yardcut.core.table.copying_arrays import copy_texts
from yardcut.core.table.vectors import CodedVector, Dictionary, PlainVector, gather_plain, join_texts

SHORT = st.text(alphabet="ab\né🌲", max_size=30)
LONG = st.builds(lambda text, times: text * times, SHORT, st.sampled_from([1, 7, 40, 90, 300]))
TEXTS = st.lists(SHORT | LONG, max_size=40)


@settings(max_examples=examples(150), deadline=None)
@given(texts=TEXTS, seed=st.integers(0, 99))
def test_texts_go_to_their_places_and_nothing_beside_them_changes(texts: list[str], seed: int) -> None:
    """Texts of all sizes, taken several times or not at all, into gaps in any sequence."""
    rng = random.Random(seed)
    offsets, data = join_texts([text.encode() for text in texts])
    rows = rng.choices(range(len(texts)), k=rng.randint(0, 50)) if texts else []
    places, end = {}, rng.randint(0, 3)
    for at in rng.sample(range(len(rows)), len(rows)):
        places[at] = end
        end += len(texts[rows[at]].encode()) + rng.randint(0, 9)
    target = np.full(end, 35, dtype=np.uint8)
    expected = bytearray(target.tobytes())
    for at, row in enumerate(rows):
        text = texts[row].encode()
        expected[places[at] : places[at] + len(text)] = text
    starts = np.array([offsets[row] for row in rows], dtype=np.int64)
    sizes = np.array([len(texts[row].encode()) for row in rows], dtype=np.int64)
    copy_texts(data, starts, sizes, target, np.array([places[at] for at in range(len(rows))], dtype=np.int64))
    assert target.tobytes() == bytes(expected)
    taken = gather_plain(PlainVector(offsets, data), np.array(rows, dtype=np.int64))
    assert taken.texts() == [texts[row] for row in rows]


@given(codes=st.lists(st.integers(-1, 30), max_size=40))
def test_a_dictionary_of_what_is_in_use_says_the_same(codes: list[int]) -> None:
    vector = CodedVector(np.array(codes, dtype=np.int16), Dictionary([f"word {number}" for number in range(31)]))
    found = vector.in_use()
    assert found.texts() == vector.texts() == [f"word {code}" if code >= 0 else None for code in codes]
    assert len(found.dictionary) <= max(len(codes), 0) or found is vector


def test_only_codes_below_zero_are_missing() -> None:
    vector = CodedVector(np.array([0, 1, -1, 0], dtype=np.int8), Dictionary(["a", "b"]))
    mask = vector.missing_mask()
    assert mask is not None
    assert mask.tolist() == [False, False, True, False]
    assert list(vector.texts()) == ["a", "b", None, "a"]
