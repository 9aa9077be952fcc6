"""Columns found by fragments, items, figures and values."""

from __future__ import annotations

import pytest

from helpers import scope_of
from yardcut.core.errors import ListError
from yardcut.core.language.helping.column_finding import Figures, Places, find_columns
from yardcut.core.values.kinds import Kind

NAMES = ["ticket", "species", "length_mm", "width_mm", "moisture_d01", "moisture_d07", "kiln_in", "kiln_out"]
SCOPE = scope_of([(name, Kind.NUMBER if name[0] in "lwm" else Kind.TEXT) for name in NAMES])
VALUES = {1: ["00417-29"], 2: ["oak"], 3: ["2400"], 7: ["kiln oak", None]}


def found(text: str, known: bool = True) -> tuple[list[int], list[int], int]:
    places = Places(
        SCOPE, SCOPE.shown, {2: "wood"}, lambda number: VALUES.get(number, ()),
        lambda number: Figures(100, number * 10, number) if known and number < 8 else None,
    )  # fmt: skip
    result = find_columns(text, places)
    return sorted(result.named), sorted(result.valued), result.unknown


@pytest.mark.parametrize(
    ("text", "named", "valued"),
    [
        ("MM", [3, 4], []),
        ("kiln", [7, 8], []),
        ("oak", [], [2, 7]),
        ("wood", [2], []),
        ("kiln oak", [], [7]),
        ("kiln out, mm width", [4, 8], []),
        ("kiln*", [7, 8], []),
        ("*_mm, /d0[1-5]$/", [3, 4, 5], []),
        ("kind number", [3, 4, 5, 6], []),
        ("kind number moist", [5, 6], []),
        ("#-3..#-1", [6, 7, 8], []),
        ("species..width_mm", [2, 3, 4], []),
        ("missing > 50%", [6, 7], []),
        ("distinct < 3, kiln_out", [1, 2, 8], []),
        ("nothing such", [], []),
        ("", [], []),
        ("*", [1, 2, 3, 4, 5, 6, 7, 8], []),
    ],
)
def test_what_is_typed_finds(text: str, named: list[int], valued: list[int]) -> None:
    assert found(text)[:2] == (named, valued)


def test_figures_that_are_not_known_are_counted_as_such() -> None:
    assert found("missing > 50%", known=False) == ([], [], 8)
    assert found("missing > 50%")[2] == 1


@pytest.mark.parametrize("text", ["/(/", "kind colour", "zzz*", "#99", "kiln_in..ticket"])
def test_an_item_that_cannot_be_meant_says_so(text: str) -> None:
    with pytest.raises(ListError):
        found(text)
