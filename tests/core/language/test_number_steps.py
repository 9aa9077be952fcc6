"""The number of a line that is nudged, and what it becomes."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.language.turning.number_steps import number_moved


@pytest.mark.parametrize(
    ("line", "place", "steps", "moved"),
    [
        ("draw first 9", None, 1, "draw first 10"),
        ("draw random 500 seed 7", None, -1, "draw random 499 seed 7"),
        ("draw random 500 seed 7", 21, 1, "draw random 500 seed 8"),
        ("keep price > 1.50 AND boards < 20", 15, 1, "keep price > 1.51 AND boards < 20"),
        ("keep price > 1.50 AND boards < 20", 24, 1, "keep price > 1.51 AND boards < 20"),
        ("keep price > 1.50 AND boards < 20", None, 3, "keep price > 1.53 AND boards < 20"),
        ("keep a2 = '3' AND \"4 b\" > 5", None, 1, "keep a2 = '3' AND \"4 b\" > 6"),
        ("draw first 0", None, -1, "draw first 0"),
        ("order at random seed 7", None, 1, "order at random seed 8"),
        ("keep #3 > 0.0", None, -1, "keep #3 > 0.0"),
    ],
)
def test_one_number_moves(line: str, place: int | None, steps: int, moved: str) -> None:
    found = number_moved(line, steps, place)
    assert found is not None
    assert found[0] == moved


def test_a_line_without_a_number_stays() -> None:
    assert number_moved("keep a2 = '3' AND b3.4c IS NULL", 1) is None


@given(st.integers(0, 10**6), st.integers(-50, 50), st.text(max_size=12))
def test_the_rest_of_the_line_stays(number: int, steps: int, around: str) -> None:
    line = f'draw first {number} per "{around.replace(chr(34), "").replace(chr(10), "")}x"'
    found = number_moved(line, steps)
    assert found is not None
    text, start, end = found
    assert text[:start] == "draw first "
    assert text[start:end] == str(max(0, number + steps))
    assert text[end:] == line[11 + len(str(number)) :]
