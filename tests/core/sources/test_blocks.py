from __future__ import annotations

import csv
import io
import itertools
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.sources.delimited_blocks.cutting import Block, are_outside, paired_quotes, read_blocks
from yardcut.core.sources.form.delimited_form import Form
from yardcut.core.sources.kinds.guessing_kinds import has_leading_zero
from yardcut.core.sources.kinds.leading_zeros import columns_with_leading_zeros

CELLS = st.text(st.sampled_from('0123a,";\n x-'), max_size=6)
ROWS = st.integers(1, 4).flatmap(
    lambda width: st.lists(st.lists(CELLS, min_size=width, max_size=width), min_size=1, max_size=12)
)


def written(rows: list[list[str]]) -> bytes:
    file = io.StringIO()
    csv.writer(file, lineterminator="\n").writerows(rows)
    return file.getvalue().encode()


@given(ROWS)
def test_row_ends_are_those_outside_quotes(rows: list[list[str]]) -> None:
    data = written(rows)
    quotes = paired_quotes(data, Form())
    block = Block(data, 1, quotes)
    starts = [0, *(end + 1 for end in block.row_ends().tolist())]
    pieces = [data[start:end].decode() for start, end in itertools.pairwise(starts)]
    assert [next(csv.reader(io.StringIO(piece, newline="")), []) for piece in pieces] == [
        row if row != [""] else [""] for row in rows
    ]


@given(ROWS)
def test_leading_zeros_are_found_where_a_cell_starts_with_one(rows: list[list[str]]) -> None:
    data = written(rows)
    block = Block(data, 1, paired_quotes(data, Form()))
    expected = {
        number for row in rows for number, cell in enumerate(row)
        if has_leading_zero(cell)
    }  # fmt: skip
    found = columns_with_leading_zeros(block, Form(), first_column=True)
    assert expected <= found
    # what is found and not expected may only be a cell in which a zero follows a line break or a quote
    assert all(any('"' in row[number] or "\n" in row[number] for row in rows) for number in found - expected)


def test_quotes_within_cells_are_plain() -> None:
    data = b'6" plank,"a ""b"" c",d"e\n'
    quotes = paired_quotes(data, Form())
    assert quotes is not None
    assert data[quotes[0]] == ord('"')
    assert quotes[0] == data.index(b'"a')
    assert len(quotes) % 2 == 0


def test_nothing_is_quoted_in_a_block_without_quotes() -> None:
    import numpy as np

    assert paired_quotes(b"a,b\n1,2\n", Form()) is None
    assert are_outside(None, np.array([0, 3])).all()


@given(ROWS, st.integers(1, 40))
def test_blocks_put_together_are_the_file(tmp_path_factory: object, rows: list[list[str]], size: int) -> None:
    path = Path(tmp_path_factory.mktemp("blocks")) / "file.csv"  # type: ignore[attr-defined]
    path.write_bytes(written(rows))
    blocks = list(read_blocks(path, Form(), size))
    assert b"".join(block.data for block in blocks) == path.read_bytes()
    assert all(block.data.endswith(b"\n") for block in blocks)
