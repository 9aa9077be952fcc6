"""Where lines go in a cut."""

from __future__ import annotations

import pytest

from yardcut.core.cutlist.model import Cut, Line


@pytest.mark.parametrize(
    ("lines", "selected", "verb", "place"),
    [
        ([], -1, "keep", 0),
        (["keep a"], 0, "keep", 1),
        (["keep a"], -1, "keep", 0),
        (["keep a"], 0, "from", 0),
        (["keep a", 'save "x.csv"'], 1, "keep", 1),
        (["keep a", 'save "x.csv"'], 1, "save", 2),
        (["keep a", 'save "x.csv"', 'save "y.csv"'], 2, "keep", 1),
        (['save "x.csv"', "keep a", 'save "y.csv"'], 2, "keep", 2),
        (['save "x.csv"', "keep a"], 0, "keep", 1),
        (['save "x.csv"', 'save "y.csv"'], 1, "keep", 0),
    ],
)
def test_a_new_line_goes_behind_the_one_selected_but_before_closing_saves(
    lines: list[str], selected: int, verb: str, place: int
) -> None:
    assert Cut("", tuple(Line(text) for text in lines)).place_for(selected, verb) == place
