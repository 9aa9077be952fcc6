"""Rows counted in pieces, against the cutter of blocks and the csv module, with quotes of every sort."""

from __future__ import annotations

import csv
import io
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from thoroughness import examples
from yardcut.core.sources.delimited_blocks import counting_rows
from yardcut.core.sources.delimited_blocks.counting_rows import count_rows
from yardcut.core.sources.delimited_blocks.cutting import read_blocks
from yardcut.core.sources.delimited_blocks.line_feeds import LINE_FEED, feeds_in, groups_in, offsets_of
from yardcut.core.sources.form.delimited_form import Form

LOOSE = st.lists(st.sampled_from(['"', '""', ",", "\n", "\r\n", "a", "é", '6" plank', '"x"', '"a\nb"']), max_size=60)
CELLS = st.text(st.sampled_from('a,"\né \r'), max_size=5)
TIDY = st.lists(st.lists(CELLS, min_size=2, max_size=2), max_size=25)
ANY_FILE = settings(
    max_examples=examples(300), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)


def cut_and_counted(path: Path) -> int:
    return sum(len(block.row_ends()) for block in read_blocks(path, Form(), 1 << 20))


@ANY_FILE
@given(pieces=LOOSE, size=st.integers(1, 9))
def test_any_text_counts_as_it_is_cut(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, pieces: list[str], size: int
) -> None:
    """Pieces of a few bytes, so that every quote meets an edge; plain quotes are left to the cutter."""
    monkeypatch.setattr(counting_rows, "_PIECE_BYTES", size)
    path = tmp_path / "a.csv"
    text = "".join(pieces)
    path.write_text(text + ("\n" if text.count('"') % 2 == 0 else '"\n'), newline="")
    try:
        expected = cut_and_counted(path)
    except Exception as error:  # a quote that never closes
        with pytest.raises(type(error)):
            count_rows(path, Form())
        return
    assert count_rows(path, Form()) == expected


@ANY_FILE
@given(rows=TIDY, size=st.integers(1, 40))
def test_what_the_csv_module_wrote_is_counted_in_pieces(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, rows: list[list[str]], size: int
) -> None:
    """Quotes that pair need no cutting: it would fail here."""
    monkeypatch.setattr(counting_rows, "_PIECE_BYTES", size)
    monkeypatch.setattr(counting_rows, "read_blocks", None)
    file = io.StringIO()
    csv.writer(file, lineterminator="\n").writerows(rows)
    path = tmp_path / "a.csv"
    path.write_text(file.getvalue(), newline="")
    assert count_rows(path, Form()) == len(rows)


@given(
    st.binary(max_size=300) | st.lists(st.sampled_from([b"\n", b"\n", b"ab", b"c" * 20]), max_size=400).map(b"".join)
)
def test_line_feeds_are_where_they_stand(data: bytes) -> None:
    expected = [place for place, byte in enumerate(data) if byte == LINE_FEED]
    assert offsets_of(np.frombuffer(data, dtype=np.uint8), LINE_FEED).tolist() == expected
    feeds = feeds_in(data)
    assert np.unpackbits(feeds)[: len(data)].nonzero()[0].tolist() == expected
    begins = [place + 1 for place in expected[63::64] if place + 1 < len(data)]
    assert groups_in(feeds, len(data)).tolist() == begins
