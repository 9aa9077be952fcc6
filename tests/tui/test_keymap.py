"""Every key must arrive on any terminal, and the footer must not promise more than works."""

import re
from pathlib import Path

from yardcut.tui.keymap import KEYS, footer_keys, key_text
from yardcut.tui.panels.list_panel import ListPanel
from yardcut.tui.panels.prompt import PromptPanel
from yardcut.tui.screens.help import help_entries
from yardcut.tui.screens.main import MainScreen
from yardcut.tui.widgets.grid.grid import Grid

NAMED = {"enter", "tab", "backspace", "delete", "insert", "space", "escape", "up", "down", "left", "right", "home", "end",
         "pageup", "pagedown"}  # fmt: skip
CHARACTERS = {"question_mark", "full_stop", "comma", "semicolon", "less_than_sign", "greater_than_sign",
              "right_square_bracket", "left_square_bracket", "slash"}  # fmt: skip
CONTROL = set("defgklnoprstuwxyzcqa")
SPECIAL_WITH_MODIFIER = {"up", "down", "left", "right", "home", "end", "pageup", "pagedown"}


def arrives(key: str) -> bool:
    """Tell whether a key arrives through tmux, ssh and a plain terminal."""
    if key in NAMED | CHARACTERS or (len(key) == 1 and key.isalpha()):
        return True
    if re.fullmatch(r"f([1-9]|1[0-2])", key):
        return True
    modifier, _, last = key.rpartition("+")
    if modifier in ("shift", "ctrl", "alt"):
        return last in SPECIAL_WITH_MODIFIER or (modifier == "ctrl" and last in CONTROL)
    return False


def test_every_key_arrives_everywhere() -> None:
    assert [key.id for key in KEYS for name in key.keys if not arrives(name)] == []


def test_what_needs_a_chord_or_escape_has_a_second_key() -> None:
    hard = [key for key in KEYS if key.keys[0].startswith(("ctrl+", "shift+")) and len(key.keys) == 1]
    allowed = {"save", "leave", "page-left", "page-right"}
    assert {key.id for key in hard} <= allowed
    assert all(len(key.keys) > 1 for key in KEYS if key.keys[0] == "escape")


def test_no_key_means_two_things_in_one_focus() -> None:
    for focus in ("grid", "list"):
        names = [name for key in KEYS if key.focus in (focus, "anywhere") for name in key.keys]
        assert len(names) == len(set(names)), focus


def test_every_action_exists() -> None:
    homes = {"anywhere": MainScreen, "grid": Grid, "list": ListPanel, "prompt": PromptPanel, "ask": PromptPanel}
    for key in KEYS:
        name = key.action.split("(")[0]
        home = MainScreen if name.startswith("screen.") else homes[key.focus]
        assert hasattr(home, "action_" + name.removeprefix("screen.")), key.id


def test_the_footer_shows_only_keys_of_its_focus() -> None:
    assert {key.focus for key in footer_keys("grid")} == {"grid", "anywhere"}
    assert {key.focus for key in footer_keys("prompt")} == {"prompt"}
    assert all(key.hint for focus in ("grid", "list", "prompt") for key in footer_keys(focus))


def test_what_destroys_a_line_works_only_on_the_list() -> None:
    assert {key.focus for key in KEYS if "delete_line" in key.action} == {"list"}


def test_the_help_page_and_the_docs_name_every_key() -> None:
    said = "\n".join(" ".join(entry) for entry in help_entries())
    docs = (Path(__file__).parents[2] / "docs" / "keys.md").read_text(encoding="utf-8")
    for key in KEYS:
        for name in key.keys:
            assert key_text(name) in said
            assert f"`{key_text(name)}`" in docs, key.id
        assert key.help in docs
