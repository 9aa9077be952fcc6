from __future__ import annotations

import pytest

from yardcut.core.sources.form.headers import header_rows, joined_names


@pytest.mark.parametrize(
    ("records", "rows"),
    [
        ([["a", "b"], ["1", "x"], ["2", "y"]], 1),
        ([["1", "x"], ["2", "y"], ["3", "z"]], 0),
        ([["2031-03-01", "x"], ["2031-03-02", "y"]], 0),
        ([["a", "b"], ["x", "y"], ["z", "w"]], 1),
        ([["length", "width"], ["mm", "mm"], ["1", "2"], ["3", "4"]], 2),
        ([["length", "width"], ["mm", ""], ["1", "2"], ["3", "4"]], 1),
        ([["a", "b"], ["odd", "1"], ["1", "2"], ["2", "3"]], 1),
        ([["a", ""], ["1", "x"], ["2", "y"]], 1),
        ([["", "x"], ["1", "y"], ["2", "z"]], 1),
        ([["2029", "2030", "2031"], ["1", "2", "3"], ["4", "5", "6"]], 0),
        ([["a", "b"]], 1),
        ([], 1),
        ([["a", "b"], ["1"]], 1),
    ],
)
def test_header_rows_are_told_from_data(records: list[list[str]], rows: int) -> None:
    assert header_rows(records) == rows


def test_marks_of_the_file_are_used() -> None:
    assert header_rows([["n", "m"], ["1.234,5", "1"], ["2,5", "2"]], ",.") == 1
    assert header_rows([["1.234,5", "1"], ["2,5", "2"], ["3,5", "3"]], ",.") == 0


def test_names_of_several_rows_are_joined_by_a_blank() -> None:
    assert joined_names([["length", " width ", ""], ["mm", "", "note"]]) == ["length mm", "width", "note"]
