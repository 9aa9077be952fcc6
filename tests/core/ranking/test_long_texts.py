from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.progress import CancelToken
from yardcut.core.ranking.long_texts import rank_rows
from yardcut.core.table.vectors import PlainVector, join_texts

TEXTS = st.lists(
    st.text(alphabet="ab\0\né🌲", max_size=30) | st.sampled_from(["a" * 24 + "x", "a" * 24, ""]), max_size=40
)


@given(TEXTS)
def test_ranks_are_places_in_code_point_order(texts: list[str]) -> None:
    offsets, data = join_texts([text.encode() for text in texts])
    ranks, count = rank_rows(PlainVector(offsets, data), CancelToken()) if texts else ([], 0)
    distinct = sorted(set(texts))
    assert list(ranks) == [distinct.index(text) for text in texts]
    assert count == len(distinct)
