"""Pictures as files: whole documents whose texts are texts, whatever the labels hold."""

from __future__ import annotations

from pathlib import Path
from xml.etree import ElementTree

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from thoroughness import some
from yardcut.core.errors import TargetError
from yardcut.core.outgoing import Outgoing
from yardcut.core.pictures.bar_data import MOST_BARS, Bars, Series
from yardcut.core.pictures.drawing_files import write_picture

ODD = [
    "oak",
    "a $x_2$ b",
    "<b>&amp;",
    "漢字 wide",
    "\x1b[31mred",
    "tab\tand\nline",
    "",
    "\u202eright",
    "x" * 300,
    "[bold]m[/]",
]


def some_bars(values: list[float], names: tuple[str, ...] = ("price",)) -> Bars:
    labels = tuple(ODD[place % len(ODD)] for place in range(len(values)))
    series = tuple(Series(name, tuple(values), tuple(f"{value:g}" for value in values)) for name in names)
    return Bars("dearest 3 & <best>", "price $", labels, series, "packs.csv · cut · 2031-11-28")


def texts(path: Path) -> str:
    return "\n".join(ElementTree.parse(path).getroot().itertext())


@pytest.mark.long
@pytest.mark.few(1)
@pytest.mark.parametrize(
    ("values", "names"),
    some(
        [
            ([3.5, -2.0, 0.0], ("the draw", "the whole")), ([], ("price",)), ([1e300, -1e300], ("price",)),
            (list(range(12)), ("price",)), ([5e-324, 1e-300], ("a", "b")),
        ],
        3,
    ),
    ids=str,
)  # fmt: skip
def test_any_bars_are_written_in_both_formats(tmp_path: Path, values: list[float], names: tuple[str, ...]) -> None:
    bars = some_bars(values, names)
    for name in ("a.svg", "a.pdf"):
        write_picture(bars, Outgoing(tmp_path / name, replace=True))
    found = texts(tmp_path / "a.svg")
    for wanted in (bars.title, bars.axis, bars.small_print):
        assert wanted in found
    if len(values) > 4:
        for label in ("oak", "a $x_2$ b", "<b>&amp;", "漢字 wide", "·[31mred", "tab·and·line", "[bold]m[/]"):
            assert label in found
    assert (tmp_path / "a.pdf").read_bytes().startswith(b"%PDF-")
    first = {name: (tmp_path / name).read_bytes() for name in ("a.svg", "a.pdf")}
    if len(values) == 3:  # the same bars give the same bytes
        for name, content in first.items():
            write_picture(bars, Outgoing(tmp_path / name, replace=True))
            assert (tmp_path / name).read_bytes() == content


@pytest.mark.long
@given(st.lists(st.text(max_size=20), min_size=1, max_size=4), st.text(max_size=30))
@settings(max_examples=4, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_any_text_gives_a_whole_document(tmp_path: Path, labels: list[str], title: str) -> None:
    values = tuple(float(place) for place in range(len(labels)))
    write_picture(
        Bars(title, title, tuple(labels), (Series(title, values, tuple(labels)),), title),
        Outgoing(tmp_path / "any.svg", replace=True),
    )
    ElementTree.parse(tmp_path / "any.svg")


@pytest.mark.long
def test_very_many_bars_are_cut_off_and_that_is_said(tmp_path: Path) -> None:
    write_picture(some_bars([1.0] * (MOST_BARS + 7)), Outgoing(tmp_path / "many.svg", replace=True))
    assert f"the first {MOST_BARS} of {MOST_BARS + 7} bars" in texts(tmp_path / "many.svg")


@pytest.mark.parametrize("name", ["a.png", "a", "not_there/a.svg"])
def test_what_cannot_be_written_is_a_sentence(tmp_path: Path, name: str) -> None:
    with pytest.raises(TargetError):
        write_picture(some_bars([1.0]), Outgoing(tmp_path / name, replace=True))
    assert list(tmp_path.iterdir()) == []


def test_stacked_bars_end_where_their_sum_does(tmp_path: Path) -> None:
    one, other = Series("left", (30.0, 10.0), ("30", "10")), Series("taken", (0.0, 20.0), ("", "-20"))
    bars = Bars("plank", "rows", ("source", "1  keep a = 1"), (one, other), kind="stacked")
    assert bars.most == 30.0
    write_picture(bars, Outgoing(tmp_path / "plank.svg", replace=True))
    assert "10 · -20" in texts(tmp_path / "plank.svg")
