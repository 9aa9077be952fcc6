"""Every key must arrive on any terminal, mean one thing, and do something; the footer promises no more than works."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from yardcut.tui.finder.findable import entries
from yardcut.tui.keys.actions import ACTIONS
from yardcut.tui.keys.focus import Focus, Need
from yardcut.tui.keys.keymap import keymap
from yardcut.tui.keys.names import key_text
from yardcut.tui.keys.own_keys import arrives
from yardcut.tui.keys.terminal import KeyParser


def test_every_key_arrives_everywhere() -> None:
    assert [key.id for key in ACTIONS for name in key.keys if not arrives(name)] == []


def test_what_needs_a_chord_or_escape_has_a_second_key() -> None:
    hard = [key for key in ACTIONS if key.keys[0].startswith(("ctrl+", "shift+")) and len(key.keys) == 1]
    allowed = {"save", "leave", "page-left", "page-right"}
    assert {key.id for key in hard} <= allowed
    assert all(len(key.keys) > 1 for key in ACTIONS if key.keys[0] == "escape")


@pytest.mark.parametrize("focus", list(Focus))
def test_no_key_means_two_things_in_one_focus(focus: Focus) -> None:
    own = [name for key in ACTIONS if key.focus is focus for name in key.keys]
    assert len(own) == len(set(own))
    if focus.is_panel:
        anywhere = [name for key in ACTIONS if key.focus in (Focus.ANYWHERE, Focus.EVERYWHERE) for name in key.keys]
        assert not set(own) & set(anywhere)


def test_every_action_is_carried_out_by_somebody_and_everything_carried_out_is_an_action() -> None:
    found = set()
    for path in (Path(__file__).parents[2] / "src" / "yardcut" / "tui").rglob("*.py"):
        if "keys" not in path.parts:
            found |= set(
                re.findall(r'^\s+\*?\*?\{?"([a-z]+(?:-[a-z]+)*)": ', path.read_text(encoding="utf-8"), re.MULTILINE)
            )
            found |= set(re.findall(r'[{,] ?"([a-z]+(?:-[a-z]+)+)": ', path.read_text(encoding="utf-8")))
            for prefix in re.findall(r'(?:scroll_calls\("|\{prefix\}-)(\w+)"', path.read_text(encoding="utf-8")):
                found |= {f"{prefix}-{way}" for way in ("up", "down", "page-up", "page-down", "first", "last")}
            for prefix in re.findall(r'PartsPage\[.*\]\(self, "(\w+)"', path.read_text(encoding="utf-8")):
                found |= {f"{prefix}-{each}" for each in ("away", "undo", "redo")}
    assert {action.id for action in ACTIONS} <= found


def test_ids_are_single() -> None:
    ids = [action.id for action in ACTIONS]
    assert len(ids) == len(set(ids))


def test_the_footer_shows_only_keys_of_its_focus() -> None:
    assert {key.focus for key in keymap().footer_actions(Focus.GRID)} == {Focus.GRID, Focus.ANYWHERE, Focus.EVERYWHERE}
    assert {key.focus for key in keymap().footer_actions(Focus.PROMPT)} == {Focus.PROMPT}
    assert all(key.hint for focus in Focus for key in keymap().footer_actions(focus))


@pytest.mark.parametrize("focus", [Focus.GRID, Focus.LIST, Focus.PROMPT])
def test_eighty_columns_show_the_way_out_and_how_to_save(focus: Focus) -> None:
    shown, used = [], 1 + len(" table ")
    for action in (action for action in keymap().footer_actions(focus) if action.id != "help"):
        used += len(key_text(action.keys[0])) + len(action.hint) + 3
        if used <= 80 - len("? keys") - 2:
            shown.append(action.id)
    if focus is Focus.PROMPT:
        assert {"enter", "prompt-stop"} <= set(shown)
    else:
        assert {"stop", "save", "write"} <= set(shown)


def test_what_destroys_a_line_works_only_on_the_list() -> None:
    assert keymap().action_for(Focus.LIST, "delete") is not None
    assert {key.focus for key in ACTIONS if key.id == "delete"} == {Focus.LIST}
    assert all(action.need in (Need.LINE, Need.LIST) for action in ACTIONS if action.focus is Focus.LIST)


def test_the_help_page_and_the_docs_name_every_key() -> None:
    said = "\n".join(entry.text for entry in entries())
    docs = (Path(__file__).parents[2] / "docs" / "keys.md").read_text(encoding="utf-8")
    for key in ACTIONS:
        for name in key.keys:
            assert key_text(name) in said
            assert f"`{key_text(name)}`" in docs, key.id
        assert key.help in docs


@pytest.mark.parametrize(
    "word",
    ["offcut", "sort", "filter", "undo", "sample", "date", "stack", "export", "duplicate", "quote", "ties", "percent",
     "seed", "gauge", "cutting list", "missing", "delimiter", "kind", "no value", "abs", "make", "rename", "save"],
)  # fmt: skip
def test_help_finds_the_words_of_the_product_and_of_the_trade(word: str) -> None:
    assert any(word in entry.text.casefold() for entry in entries())


def read(*chunks: str) -> list[str]:
    parser = KeyParser()
    return [event.key for chunk in chunks for event in parser.feed(chunk) if hasattr(event, "key")]


@pytest.mark.parametrize(
    ("chunks", "keys"),
    [
        (("\x1bw",), ["escape", "w"]),
        (("\x1b.",), ["escape", "full_stop"]),
        (("\x1b\r",), ["escape", "enter"]),
        (("\x1bwkeep",), ["escape", "w", "k", "e", "e", "p"]),
        (("\x1b", "w"), ["escape", "w"]),
        (("\x1b", "."), ["escape", "full_stop"]),
        (("\x1b", "[A"), ["up"]),
        (("\x1b[A\x1bw\x1bOP",), ["up", "escape", "w", "f1"]),
        (("a\x1bb\x1bc",), ["a", "escape", "b", "escape", "c"]),
    ],
)
def test_escape_and_a_letter_are_two_keys_however_quickly_they_come(chunks: tuple[str, ...], keys: list[str]) -> None:
    assert read(*chunks) == keys
