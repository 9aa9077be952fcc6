"""All keys in one table: footer, help page, bindings and the docs are made from it."""

from __future__ import annotations

from dataclasses import dataclass

from textual.binding import Binding


@dataclass(frozen=True, slots=True)
class Key:
    """One action's keys in one focus.

    ``focus`` is "anywhere", "grid", "list", "prompt" (a line is written) or "ask" (a question); ``keys`` are Textual's names, the first one shown;
    ``hint`` stands in the footer, ``help`` on the page of keys, under ``task``. ``footer`` ranks it there (0: left out).
    """

    id: str
    focus: str
    keys: tuple[str, ...]
    action: str
    hint: str
    help: str
    task: str
    footer: int = 0


KEYS: tuple[Key, ...] = (
    # anywhere
    Key("help", "anywhere", ("question_mark", "f3"), "help", "all keys", "this page; type to search it", "find your way", 1),
    Key("panel", "anywhere", ("tab",), "switch_panel", "list and table", "go from the list to the table and back", "find your way", 4),
    Key("save", "anywhere", ("ctrl+s",), "save_slice", "save slice", "save the slice as of the last line", "keep the result", 5),
    Key("save-list", "anywhere", ("f4", "ctrl+l"), "save_list", "save list", "save the cutting list as a .cut file", "keep the result", 6),
    Key("leave", "anywhere", ("ctrl+q",), "leave", "leave", "leave Yard Cut", "find your way", 9),
    Key("stop", "anywhere", ("escape", "ctrl+g"), "stop", "stop", "stop what is under way, or close what is open", "find your way"),
    Key("write", "anywhere", ("w", "f2"), "write", "write a line", "write a line of the cut", "cut", 2),
    Key("undo", "anywhere", ("u",), "undo", "undo", "take the last edit back", "change the list", 7),
    Key("redo", "anywhere", ("U", "ctrl+r"), "redo", "redo", "do it again", "change the list"),
    Key("next-cut", "anywhere", ("right_square_bracket",), "next_cut", "next cut", "work on the next cut of the list", "change the list"),
    Key("previous-cut", "anywhere", ("left_square_bracket",), "previous_cut", "previous cut", "work on the previous cut", "change the list"),
    Key("again", "anywhere", ("R",), "read_again", "read again", "read the source again, with the list applied", "find your way"),
    Key("source", "anywhere", ("i", "f8"), "source_card", "source", "what was read and how, what was dropped or set aside, and change it", "look", 6),
    Key("profile", "anywhere", ("p",), "profile", "all columns", "the profile of every column on one page", "look", 7),
    Key("fold", "anywhere", ("l",), "fold", "fold list", "fold the list away, or back", "find your way"),
    Key("theme", "anywhere", ("f9",), "theme", "light or dark", "change between the dark and the light theme", "find your way"),
    # grid
    Key("keep-value", "grid", ("full_stop",), "screen.keep_value", "keep this", "keep only the rows with this cell's value", "cut", 3),
    Key("drop-value", "grid", ("backspace", "delete"), "screen.drop_value", "drop this", "drop the rows with this cell's value", "cut", 3),
    Key("about-value", "grid", ("enter",), "screen.about_value", "write about it", "write a line about this cell", "cut", 4),
    Key("row-card", "grid", ("f",), "screen.row_card", "row in full", "see the row from top to bottom", "look", 4),
    Key("go", "grid", ("g",), "screen.go", "go to", "go to a row by number, or a column by part of its name", "look", 5),
    Key("up", "grid", ("up",), "move(-1,0)", "", "one row up", "look"),
    Key("down", "grid", ("down",), "move(1,0)", "", "one row down", "look"),
    Key("left", "grid", ("left",), "move(0,-1)", "", "one column to the left", "look"),
    Key("right", "grid", ("right",), "move(0,1)", "", "one column to the right", "look"),
    Key("page-up", "grid", ("pageup",), "page(-1)", "", "one page up", "look"),
    Key("page-down", "grid", ("pagedown", "space"), "page(1)", "", "one page down", "look"),
    Key("page-left", "grid", ("shift+left",), "page_columns(-1)", "", "as many columns to the left as are shown", "look"),
    Key("page-right", "grid", ("shift+right",), "page_columns(1)", "", "as many columns to the right as are shown", "look"),
    Key("first-column", "grid", ("home",), "edge_column(-1)", "", "the first column", "look"),
    Key("last-column", "grid", ("end",), "edge_column(1)", "", "the last column", "look"),
    Key("first-row", "grid", ("ctrl+home", "less_than_sign"), "edge_row(-1)", "", "the first row", "look"),
    Key("last-row", "grid", ("ctrl+end", "greater_than_sign"), "edge_row(1)", "", "the last row", "look"),
    Key("offcut-grid", "grid", ("o",), "screen.offcut", "offcut", "the rows the selected line removed, with the reason, and back", "look", 6),
    # list
    Key("line-up", "list", ("up",), "screen.select_line(-1)", "", "the line above", "look"),
    Key("line-down", "list", ("down",), "screen.select_line(1)", "", "the line below", "look"),
    Key("line-first", "list", ("home",), "screen.select_edge(-1)", "", "the source", "look"),
    Key("line-last", "list", ("end",), "screen.select_edge(1)", "", "the last line", "look"),
    Key("edit", "list", ("e", "enter"), "screen.edit", "edit", "edit the line", "change the list", 3),
    Key("off", "list", ("x",), "screen.switch_off", "off or on", "switch the line off, or on again", "change the list", 3),
    Key("delete", "list", ("delete", "backspace"), "screen.delete_line", "delete", "take the line out", "change the list", 5),
    Key("move-up", "list", ("shift+up", "comma"), "screen.move_line(-1)", "move up", "move the line up", "change the list", 6),
    Key("move-down", "list", ("shift+down", "semicolon"), "screen.move_line(1)", "move down", "move the line down", "change the list", 6),
    Key("offcut", "list", ("o",), "screen.offcut", "offcut", "the rows the line removed, with the reason, and back", "look", 4),
    # prompt
    Key("enter", "prompt", ("enter",), "enter", "cut", "put the line on the list", "cut", 1),
    Key("complete", "prompt", ("tab",), "complete", "complete", "take the marked completion", "cut", 2),
    Key("pick-up", "prompt", ("up",), "pick(-1)", "", "mark the completion above", "cut"),
    Key("pick-down", "prompt", ("down",), "pick(1)", "choose", "mark the completion below", "cut", 2),
    Key("mend", "prompt", ("f2",), "mend", "take the mend", "put the text right as the message says", "cut", 3),
    Key("marked", "prompt", ("f5",), "toggle_marked", "marked or removed", "see the rows the line takes marked in place, or gone", "cut", 3),
    Key("editor", "prompt", ("f6",), "editor", "editor", "go on in $EDITOR", "cut", 5),
    Key("form", "prompt", ("f7",), "form", "this form", "what the verb takes, with an example", "cut", 6),
    Key("ask-enter", "ask", ("enter",), "enter", "do it", "do what the line below says", "answer a question", 1),
    Key("ask-complete", "ask", ("tab",), "complete", "complete", "complete a path or a name", "answer a question", 2),
    Key("ask-replace", "ask", ("f5",), "toggle_marked", "replace what is there", "allow a file that exists to be replaced", "answer a question", 3),
    Key("ask-stop", "ask", ("escape", "ctrl+g"), "stop", "leave it", "put the question away", "answer a question", 4),
    Key("prompt-stop", "prompt", ("escape", "ctrl+g"), "stop", "leave it", "put the line away", "cut", 4),
)  # fmt: skip

_SHOWN = {
    "question_mark": "?", "full_stop": ".", "comma": ",", "semicolon": ";", "less_than_sign": "<",
    "greater_than_sign": ">", "right_square_bracket": "]", "left_square_bracket": "[", "escape": "Esc",
    "backspace": "Backspace", "delete": "Del", "enter": "Enter", "tab": "Tab", "space": "Space", "up": "↑", "down": "↓",
    "left": "←", "right": "→", "pageup": "PgUp", "pagedown": "PgDn", "home": "Home", "end": "End",
}  # fmt: skip


def key_text(key: str) -> str:
    """Return a key as people read it."""
    if key in _SHOWN:
        return _SHOWN[key]
    if "+" in key:
        *modifiers, last = key.split("+")
        return "+".join([*modifiers, _SHOWN.get(last, last)])
    return key.upper() if key.startswith("f") and key[1:].isdigit() else key


def bindings(focus: str) -> list[Binding]:
    """Return Textual's bindings of one focus.

    They are acted on the moment a key comes in, before the next one is looked at: what is typed ahead while the prompt
    opens or closes goes where the typist meant it to.
    """
    return [
        Binding(",".join(key.keys), key.action, key.help, show=False, priority=True, id=f"{key.focus}.{key.id}")
        for key in KEYS
        if key.focus == focus
    ]


def footer_keys(focus: str) -> list[Key]:
    """Return what the footer shows in one focus, most useful first."""
    found = [key for key in KEYS if key.footer and key.focus in (focus, "anywhere")]
    if focus in ("prompt", "ask"):
        found = [key for key in found if key.focus == focus]
    return sorted(found, key=lambda key: key.footer)
