import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.table import bits as bit
from yardcut.core.table.rowset import RowSet, ordered

ROWS = st.integers(0, 300).flatmap(
    lambda rows: st.tuples(st.just(rows), st.sets(st.integers(0, max(0, rows - 1)), max_size=rows))
)


@given(ROWS, st.integers(0, 300), st.integers(0, 50))
def test_members_in_source_order(case: tuple[int, set[int]], first: int, count: int) -> None:
    rows, members = case
    kept = sorted(member for member in members if member < rows)
    found = RowSet(rows, bit.of_ids(np.array(kept, dtype=np.int64), rows))
    assert found.count == len(kept)
    assert found.ids(first, first + count).tolist() == kept[first : first + count]
    for position, row in enumerate(kept):
        assert found.position(row) == position


@given(ROWS, st.randoms(use_true_random=False))
def test_members_in_an_order_of_their_own(case: tuple[int, set[int]], random: object) -> None:
    rows, members = case
    order = [member for member in members if member < rows]
    random.shuffle(order)  # type: ignore[attr-defined]
    found = ordered(np.array(order, dtype=np.uint32), rows)
    assert found.ids(0, rows).tolist() == order
    half = {row for row in order if row % 2}
    kept = found.only(bit.of_ids(np.array(sorted(half), dtype=np.int64), rows))
    assert kept.ids(0, rows).tolist() == [row for row in order if row % 2]
    gone = found.without(bit.of_ids(np.array(sorted(half), dtype=np.int64), rows))
    assert gone.ids(0, rows).tolist() == [row for row in order if row % 2 == 0]
    if order:
        assert found.places is not None
        assert [int(found.places[row]) for row in order] == list(range(len(order)))


def test_a_large_set_is_read_across_blocks() -> None:
    rows = (1 << 17) + 5
    mask = np.zeros(rows, dtype=np.bool_)
    mask[[0, 65_535, 65_536, 131_071, 131_072, rows - 1]] = True
    found = RowSet(rows, bit.pack(mask))
    assert found.ids(1, 6).tolist() == [65_535, 65_536, 131_071, 131_072, rows - 1]
    assert found.position(131_072) == 4
    assert RowSet(rows).ids(rows - 2, rows + 9).tolist() == [rows - 2, rows - 1]


@given(st.lists(st.booleans(), max_size=70))
def test_bits_pack_and_count(mask: list[bool]) -> None:
    array = np.array(mask, dtype=np.bool_)
    packed = bit.pack(array)
    assert bit.unpack(packed, 0, len(mask)).tolist() == mask
    assert bit.count(packed) == sum(mask)
    assert bit.count(bit.ones(len(mask))) == len(mask)
