"""Look lines: kept with the list, read back byte for byte, and never part of what is run."""

from __future__ import annotations

import pytest

from yardcut.core.cutlist.file import list_text, parse_list
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError

LIST = """yardcut 1

source "yard_2031.csv"

cut "winter oak"
  keep grade = 'A'
  save "winter-oak.parquet"
  -- for the eye
  look order price_per_m3 DESC
  look keep species = 'oak'

cut "more"
  from "winter oak"
"""


def test_look_lines_stay_apart_and_come_back_as_they_were() -> None:
    found = parse_list(LIST)
    assert [line.text for line in found.cuts[0].lines] == ["keep grade = 'A'", 'save "winter-oak.parquet"']
    assert [line.text for line in found.cuts[0].looks] == [
        "look order price_per_m3 DESC", "look keep species = 'oak'",
    ]  # fmt: skip
    assert list_text(found) == LIST


@pytest.mark.parametrize(
    ("lines", "says"),
    [
        ("  look order a\n  keep a = 1\n", "look lines come after all others"),
        ("  look draw first 3\n", "look takes an order, a keep or a drop, and not draw"),
        ("  look off keep a = 1\n", "and not off"),
        ("  look\n", "look takes an order"),
        ("  look keep a ==\n", "cannot stand here"),
    ],
)
def test_what_is_no_look_line_is_said_with_its_place(lines: str, says: str) -> None:
    with pytest.raises(ListError) as caught:
        parse_list('yardcut 1\nsource "a.csv"\ncut "x"\n' + lines)
    assert says in str(caught.value)
    assert caught.value.place is not None
    assert caught.value.place.line >= 4


def test_another_order_takes_the_place_of_the_one_before_and_all_become_lines() -> None:
    cut = Cut("", (Line("keep a = 1"), Line('save "x.csv"')))
    for text in ("look order a", "look keep b = 2", "look order b DESC"):
        cut = cut.with_look(Line(text))
    assert [line.text for line in cut.looks] == ["look keep b = 2", "look order b DESC"]
    real = cut.with_looks_as_lines()
    assert [line.text for line in real.lines] == ["keep a = 1", "keep b = 2", "order b DESC", 'save "x.csv"']
    assert real.looks == ()
