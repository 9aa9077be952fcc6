"""A terminal of sixteen colours gets a theme of these, and one of none sees what is marked."""

from __future__ import annotations

from pathlib import Path

import pytest
from rich.color import Color, ColorSystem

from terminal import Terminal
from yardcut.tui.theme import DARK, LIGHT, SIXTEEN, theme_for


def test_the_dark_theme_gives_way_where_there_are_sixteen_colours_and_no_other() -> None:
    assert theme_for(DARK.name, "standard") == SIXTEEN.name
    assert theme_for(LIGHT.name, "standard") == LIGHT.name
    assert {theme_for(DARK.name, system) for system in ("256", "truecolor", None)} == {DARK.name}


def test_each_colour_of_it_is_one_of_the_sixteen() -> None:
    own = [SIXTEEN.accent, SIXTEEN.foreground, SIXTEEN.background, SIXTEEN.surface, SIXTEEN.error, *SIXTEEN.variables.values()]  # fmt: skip
    numbers = {colour: Color.parse(colour or "").downgrade(ColorSystem.STANDARD).number for colour in own}
    assert len(set(numbers.values())) == len(numbers)  # what differs here differs there


@pytest.mark.parametrize("colours", ["NO_COLOR", "TERM"])
def test_what_is_marked_on_a_card_is_seen(tmp_path: Path, colours: str) -> None:
    (tmp_path / "a.csv").write_text("n,w\n1,a\n2,b\n3,b\n")
    named = {"NO_COLOR": "1"} if colours == "NO_COLOR" else {"TERM": "xterm", "COLORTERM": ""}
    app = Terminal(tmp_path, 120, 34, ["a.csv"], **named)
    try:
        app.until("3 rows")
        app.keys("Right", "v")
        app.until("Space")
        marked = next(line for line in app.screen(styled=True).split("\n") if "[ ] " in line and "b " in line)
        assert ("\x1b[1;4m" if colours == "NO_COLOR" else "\x1b[44m") in marked
    finally:
        app.close()
