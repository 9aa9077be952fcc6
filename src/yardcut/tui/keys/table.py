"""All actions in one table: dispatcher, footer, help, the docs and remapping read it."""

from __future__ import annotations

from dataclasses import dataclass

from yardcut.tui.keys.focus import Focus, Need


@dataclass(frozen=True, slots=True)
class Action:
    """One action in one focus.

    ``keys`` are Textual's names, the first one shown; ``hint`` stands in the footer, ``help`` on the page of keys,
    under ``task``. ``footer`` ranks it there (0: left out). ``need`` must be met before it is carried out.
    """

    id: str
    focus: Focus
    keys: tuple[str, ...]
    hint: str
    help: str
    task: str
    footer: int = 0
    need: Need = Need.NOTHING


ACTIONS: tuple[Action, ...] = (
    Action("help", Focus.EVERYWHERE, ("question_mark", "f3"), "keys", "this page; type to search it", "find your way", 1),
    Action("panel", Focus.ANYWHERE, ("tab",), "panel", "go from the list to the table and back", "find your way", 4),
    Action("save", Focus.ANYWHERE, ("ctrl+s",), "save", "save the slice as of the last line", "keep the result", 4, Need.LIST),
    Action("save-list", Focus.ANYWHERE, ("f4", "ctrl+l"), "save list", "save the cutting list as a .cut file", "keep the result", 8, Need.LIST),
    Action("leave", Focus.EVERYWHERE, ("ctrl+q",), "leave", "leave Yard Cut", "find your way", 9),
    Action("stop", Focus.ANYWHERE, ("escape", "ctrl+g"), "back", "stop what is under way, or go one step back", "find your way", 5),
    Action("write", Focus.ANYWHERE, ("w", "f2"), "write", "write a line of the cut", "cut", 2),
    Action("undo", Focus.ANYWHERE, ("u",), "undo", "take the last edit back", "change the list", 8, Need.LIST),
    Action("redo", Focus.ANYWHERE, ("U", "ctrl+r"), "redo", "do it again", "change the list", 0, Need.LIST),
    Action("next-cut", Focus.ANYWHERE, ("right_square_bracket",), "next cut", "work on the next cut of the list", "change the list", 0, Need.LIST),
    Action("previous-cut", Focus.ANYWHERE, ("left_square_bracket",), "previous cut", "work on the previous cut", "change the list", 0, Need.LIST),
    Action("cuts", Focus.ANYWHERE, ("C",), "", "the cuts of the list: go to one, add, copy, begin with one, rename, take out", "change the list", 0, Need.LIST),
    Action("copy-cut", Focus.ANYWHERE, ("ctrl+n", "f5"), "", "a new cut, copied from this one", "change the list", 0, Need.LIST),
    Action("again", Focus.ANYWHERE, ("R",), "read again", "read the source again, with the list applied", "find your way", 0, Need.LIST),
    Action("source", Focus.ANYWHERE, ("i", "f8"), "source", "what was read and how, what was dropped or set aside, and change it", "look", 8, Need.LIST),
    Action("rack", Focus.ANYWHERE, ("c",), "columns", "the rack: find, choose, order and rename columns", "choose columns", 5, Need.LIST),
    Action("make", Focus.ANYWHERE, ("m",), "make", "make a column from others", "choose columns", 8, Need.LIST),
    Action("profile", Focus.ANYWHERE, ("p",), "all columns", "the profile of every column on one page", "look", 8, Need.LIST),
    Action("kept", Focus.ANYWHERE, ("K",), "kept lists", "unsaved lists of this source, kept when they were left or the program ended", "keep the result", 0, Need.LIST),
    Action("fold", Focus.ANYWHERE, ("l",), "fold list", "fold the list away, or back", "find your way"),
    Action("theme", Focus.EVERYWHERE, ("f9",), "light or dark", "change between the dark and the light theme", "find your way"),
    Action("keep-value", Focus.GRID, ("full_stop",), "keep", "keep only the rows with this cell's value", "cut", 3, Need.CELL),
    Action("drop-value", Focus.GRID, ("delete", "backspace"), "drop", "drop the rows with this cell's value", "cut", 3, Need.CELL),
    Action("about-value", Focus.GRID, ("enter",), "write about it", "write a line about this cell", "cut", 6, Need.CELL),
    Action("row-card", Focus.GRID, ("f",), "row in full", "see the row from top to bottom", "look", 6, Need.LIST),
    Action("go", Focus.GRID, ("g",), "go to", "go to a row by number, or a column by part of its name", "look", 6, Need.LIST),
    Action("leave-out", Focus.GRID, ("minus",), "", "leave this column out of the cut", "choose columns", 0, Need.COLUMN),
    Action("column-left", Focus.GRID, ("comma",), "", "move this column to the left", "choose columns", 0, Need.COLUMN),
    Action("column-right", Focus.GRID, ("semicolon",), "", "move this column to the right", "choose columns", 0, Need.COLUMN),
    Action("rename", Focus.GRID, ("r",), "", "give this column another name", "choose columns", 0, Need.COLUMN),
    Action("freeze", Focus.GRID, ("z",), "", "let this column stand still at the left, or go again", "look", 0, Need.COLUMN),
    Action("column-card", Focus.GRID, ("h",), "column", "all about this column: order by it, leave it out, rename, move, freeze, read it as another kind", "choose columns", 6, Need.COLUMN),
    Action("up", Focus.GRID, ("up",), "", "one row up", "look"),
    Action("down", Focus.GRID, ("down",), "", "one row down", "look"),
    Action("left", Focus.GRID, ("left",), "", "one column to the left", "look"),
    Action("right", Focus.GRID, ("right",), "", "one column to the right", "look"),
    Action("page-up", Focus.GRID, ("pageup",), "", "one page up", "look"),
    Action("page-down", Focus.GRID, ("pagedown", "space"), "", "one page down", "look"),
    Action("page-left", Focus.GRID, ("shift+left",), "", "as many columns to the left as are shown", "look"),
    Action("page-right", Focus.GRID, ("shift+right",), "", "as many columns to the right as are shown", "look"),
    Action("first-column", Focus.GRID, ("home",), "", "the first column", "look"),
    Action("last-column", Focus.GRID, ("end",), "", "the last column", "look"),
    Action("first-row", Focus.GRID, ("ctrl+home", "less_than_sign"), "", "the first row", "look"),
    Action("last-row", Focus.GRID, ("ctrl+end", "greater_than_sign"), "", "the last row", "look", 0, Need.LIST),
    Action("offcut-grid", Focus.GRID, ("o",), "offcut", "the rows the selected line removed, with the reason, and back", "look", 7, Need.LINE),
    Action("line-up", Focus.LIST, ("up",), "", "the line above", "look", 0, Need.LIST),
    Action("line-down", Focus.LIST, ("down",), "", "the line below", "look", 0, Need.LIST),
    Action("line-first", Focus.LIST, ("home",), "", "the source", "look", 0, Need.LIST),
    Action("line-last", Focus.LIST, ("end",), "", "the last line", "look", 0, Need.LIST),
    Action("edit", Focus.LIST, ("e", "enter"), "edit", "edit the line", "change the list", 3, Need.LIST),
    Action("off", Focus.LIST, ("x",), "off", "switch the line off, or on again", "change the list", 3, Need.LINE),
    Action("delete", Focus.LIST, ("delete", "backspace"), "delete", "take the line out", "change the list", 6, Need.LINE),
    Action("move-up", Focus.LIST, ("shift+up", "comma"), "move up", "move the line up", "change the list", 6, Need.LINE),
    Action("move-down", Focus.LIST, ("shift+down", "semicolon"), "move down", "move the line down", "change the list", 6, Need.LINE),
    Action("offcut", Focus.LIST, ("o",), "offcut", "the rows the line removed, with the reason, and back", "look", 6, Need.LINE),
    Action("enter", Focus.PROMPT, ("enter",), "cut", "put the line on the list", "cut", 1, Need.LIST),
    Action("complete", Focus.PROMPT, ("tab",), "complete", "take the marked completion", "cut", 2),
    Action("pick-up", Focus.PROMPT, ("up",), "", "mark the completion above", "cut"),
    Action("pick-down", Focus.PROMPT, ("down",), "choose", "mark the completion below", "cut", 4),
    Action("mend", Focus.PROMPT, ("f2",), "mend", "put the text right as the message says", "cut", 3, Need.TRIED),
    Action("marked", Focus.PROMPT, ("f5",), "marked or gone", "see the rows the line takes marked in place, or gone", "cut", 5),
    Action("editor", Focus.PROMPT, ("f6",), "editor", "go on in $EDITOR", "cut", 7),
    Action("form", Focus.PROMPT, ("f7",), "this form", "what the verb takes, with an example", "cut", 6),
    Action("ask-enter", Focus.QUESTION, ("enter",), "do it", "do what the line below says", "answer a question", 1),
    Action("ask-complete", Focus.QUESTION, ("tab",), "complete", "complete a path or a name", "answer a question", 2),
    Action("ask-next", Focus.QUESTION, ("down",), "next match", "the next match, or the completion below", "answer a question", 2),
    Action("ask-previous", Focus.QUESTION, ("up",), "", "the match before, or the completion above", "answer a question"),
    Action("ask-replace", Focus.QUESTION, ("f5",), "replace what is there", "allow a file that exists to be replaced", "answer a question", 3),
    Action("ask-stop", Focus.QUESTION, ("escape", "ctrl+g"), "leave it", "put the question away", "answer a question", 4),
    Action("prompt-stop", Focus.PROMPT, ("escape", "ctrl+g"), "leave it", "put the line away", "cut", 2),
    # cards
    Action("put-away", Focus.CARD, ("escape", "ctrl+g"), "put away", "close the card", "find your way", 1),
    Action("row-away", Focus.ROW, ("escape", "ctrl+g", "q", "f"), "put away", "close the card, the cursor on the row seen last", "look", 9),
    Action("row-next", Focus.ROW, ("right", "n"), "next row", "the next row", "look", 1),
    Action("row-previous", Focus.ROW, ("left", "p"), "previous row", "the row before", "look", 2),
    Action("row-search", Focus.ROW, ("slash",), "search", "part of a name or a value", "look", 3),
    Action("row-searched", Focus.ROW, ("enter",), "", "back from the search to the fields", "look"),
    Action("row-up", Focus.ROW, ("up",), "", "scroll up", "look"),
    Action("row-down", Focus.ROW, ("down",), "", "scroll down", "look"),
    Action("row-page-up", Focus.ROW, ("pageup",), "", "scroll a page up", "look"),
    Action("row-page-down", Focus.ROW, ("pagedown", "space"), "", "scroll a page down", "look"),
    Action("row-first", Focus.ROW, ("home",), "", "the first field", "look"),
    Action("row-last", Focus.ROW, ("end",), "", "the last field", "look"),
    Action("source-away", Focus.SOURCE, ("escape", "ctrl+g", "q", "i", "f8"), "put away", "close the card", "look", 9),
    Action("source-switch", Focus.SOURCE, ("tab",), "read or choose", "go from what was read to the lines that would change it, and back", "look", 1),
    Action("source-choose", Focus.SOURCE, ("enter",), "write the line", "go on writing the marked line", "look", 2),
    Action("source-save", Focus.SOURCE, ("s",), "save what was left out", "save dropped rows and values set aside, with their places", "keep the result", 3),
    Action("profile-away", Focus.PROFILE, ("escape", "ctrl+g", "q", "p"), "put away", "close the page", "look", 9),
    Action("profile-go", Focus.PROFILE, ("enter",), "go to the column", "go to the marked column", "look", 1),
    Action("rack-away", Focus.RACK, ("escape", "ctrl+g", "q", "c"), "put away", "one step back, or put the rack away", "choose columns", 9),
    Action("rack-toggle", Focus.RACK, ("space",), "take or leave", "take the column into the cut, or leave it out", "choose columns", 1),
    Action("rack-enter", Focus.RACK, ("enter",), "", "take or leave the column; in a field: done", "choose columns"),
    Action("rack-find", Focus.RACK, ("slash",), "find", "find columns by part of a name or value, a pattern, a kind, figures", "choose columns", 2),
    Action("rack-find-more", Focus.RACK, ("plus",), "", "find more, beside what was found", "choose columns"),
    Action("rack-find-among", Focus.RACK, ("ampersand",), "", "find among what was found", "choose columns"),
    Action("rack-take", Focus.RACK, ("t",), "take matches", "take all that was found into the cut", "choose columns", 3),
    Action("rack-leave", Focus.RACK, ("l",), "leave matches", "leave all that was found out of the cut", "choose columns", 3),
    Action("rack-only", Focus.RACK, ("o",), "only matches", "only what was found, nothing else", "choose columns", 3),
    Action("rack-except", Focus.RACK, ("e",), "", "leave this match aside, or take it back among them", "choose columns"),
    Action("rack-next-match", Focus.RACK, ("tab",), "", "the next match", "choose columns"),
    Action("rack-previous-match", Focus.RACK, ("b",), "", "the match before", "choose columns"),
    Action("rack-up", Focus.RACK, ("up",), "", "the column above", "choose columns"),
    Action("rack-down", Focus.RACK, ("down",), "", "the column below", "choose columns"),
    Action("rack-page-up", Focus.RACK, ("pageup",), "", "a page up", "choose columns"),
    Action("rack-page-down", Focus.RACK, ("pagedown",), "", "a page down", "choose columns"),
    Action("rack-first", Focus.RACK, ("home",), "", "the first column", "choose columns"),
    Action("rack-last", Focus.RACK, ("end",), "", "the last column", "choose columns"),
    Action("rack-move-up", Focus.RACK, ("comma", "shift+up"), "move", "move the column up in the cut", "choose columns", 4),
    Action("rack-move-down", Focus.RACK, ("semicolon", "shift+down"), "move", "move the column down in the cut", "choose columns", 4),
    Action("rack-top", Focus.RACK, ("less_than_sign",), "", "make it the first column", "choose columns"),
    Action("rack-bottom", Focus.RACK, ("greater_than_sign",), "", "make it the last column", "choose columns"),
    Action("rack-hold", Focus.RACK, ("h",), "hold", "pick the column up, and put it below another one", "choose columns", 5),
    Action("rack-rename", Focus.RACK, ("r",), "rename", "give the column another name", "choose columns", 5),
    Action("rack-rename-many", Focus.RACK, ("R",), "", "rename all that was found, or all in the cut, by a rule", "choose columns"),
    Action("rack-mend", Focus.RACK, ("f2",), "", "take the name that is offered", "choose columns"),
    Action("rack-off", Focus.RACK, ("x",), "off", "switch the column's item off without losing it, or on again", "choose columns", 6),
    Action("rack-pin", Focus.RACK, ("p",), "pin", "replace the pattern this column came by with the names it meets now", "choose columns", 7),
    Action("rack-pin-all", Focus.RACK, ("P",), "", "replace all patterns with the names they meet now", "choose columns"),
    Action("rack-sort", Focus.RACK, ("s",), "sort", "show the columns by name, kind, missing or number, and in the cut's order again", "choose columns", 6),
    Action("rack-rows", Focus.RACK, ("n",), "next row", "see the values of the next row", "choose columns", 7),
    Action("rack-any-row", Focus.RACK, ("N",), "", "see the values of rows by chance", "choose columns"),
    Action("rack-grid-row", Focus.RACK, ("g",), "", "see the values of the row under the table's cursor", "choose columns"),
    Action("rack-make", Focus.RACK, ("m",), "make", "make a column from others", "choose columns", 7),
    Action("rack-undo", Focus.RACK, ("u",), "undo", "take the last edit back", "choose columns", 8),
    Action("rack-redo", Focus.RACK, ("U", "ctrl+r"), "", "do it again", "choose columns"),
    Action("cuts-away", Focus.CUTS, ("escape", "ctrl+g", "q", "C"), "put away", "close the card", "change the list", 9),
    Action("cuts-go", Focus.CUTS, ("enter",), "go", "work on the marked cut", "change the list", 1),
    Action("cuts-new", Focus.CUTS, ("n",), "new", "a new cut without lines, behind the marked one", "change the list", 2),
    Action("cuts-copy", Focus.CUTS, ("c",), "copy", "a copy of the marked cut", "change the list", 2),
    Action("cuts-from", Focus.CUTS, ("f",), "begin with", "a new cut that begins with the rows of the marked one", "change the list", 2),
    Action("cuts-rename", Focus.CUTS, ("r",), "rename", "give the marked cut another name", "change the list", 3),
    Action("cuts-delete", Focus.CUTS, ("delete", "backspace"), "take out", "take the marked cut out of the list", "change the list", 4),
    Action("column-away", Focus.COLUMN, ("escape", "ctrl+g", "q", "h"), "put away", "close the card", "choose columns", 9),
    Action("column-do", Focus.COLUMN, ("enter",), "do it", "do what is marked", "choose columns", 1),
    Action("tables-away", Focus.TABLES, ("escape", "ctrl+g"), "leave", "open nothing, and leave", "find your way", 9),
    Action("tables-open", Focus.TABLES, ("enter",), "open it", "open the marked table, or the answer of the query", "find your way", 1),
    Action("tables-switch", Focus.TABLES, ("tab",), "tables or query", "go from the tables to the query, and back", "find your way", 2),
    Action("kept-away", Focus.KEPT, ("escape", "ctrl+g", "q", "K"), "put away", "close the card", "keep the result", 9),
    Action("kept-take", Focus.KEPT, ("enter",), "take it up", "go on with the marked list, as one edit", "keep the result", 1),
    Action("kept-forget", Focus.KEPT, ("delete", "backspace"), "forget it", "drop the marked list for good, with its older states", "keep the result", 2),
    Action("choice-up", Focus.CHOICES, ("up",), "", "the choice above, or scroll up", "look"),
    Action("choice-down", Focus.CHOICES, ("down",), "", "the choice below, or scroll down", "look"),
    Action("choice-page-up", Focus.CHOICES, ("pageup",), "", "a page up", "look"),
    Action("choice-page-down", Focus.CHOICES, ("pagedown",), "", "a page down", "look"),
    Action("choice-first", Focus.CHOICES, ("home",), "", "the first choice", "look"),
    Action("choice-last", Focus.CHOICES, ("end",), "", "the last choice", "look"),
    Action("help-away", Focus.HELP, ("escape", "ctrl+g", "f3"), "put away", "close the page", "find your way", 9),
    Action("help-up", Focus.HELP, ("up",), "scroll", "scroll up", "find your way", 1),
    Action("help-down", Focus.HELP, ("down",), "", "scroll down", "find your way"),
    Action("help-page-up", Focus.HELP, ("pageup",), "", "scroll a page up", "find your way"),
    Action("help-page-down", Focus.HELP, ("pagedown",), "", "scroll a page down", "find your way"),
    Action("help-first", Focus.HELP, ("home",), "", "the beginning", "find your way"),
    Action("help-last", Focus.HELP, ("end",), "", "the end", "find your way"),
)  # fmt: skip

_BY_KEY = {(action.focus, key): action for action in ACTIONS for key in action.keys}


def action_for(focus: Focus, key: str) -> Action | None:
    """Return what a key does in a focus, if anything."""
    homes = [focus, *([Focus.ANYWHERE] * focus.is_panel), *([Focus.CHOICES] * focus.has_choices), Focus.EVERYWHERE]
    return next((found for home in homes if (found := _BY_KEY.get((home, key))) is not None), None)


def footer_actions(focus: Focus) -> list[Action]:
    """Return what the footer shows in one focus, most useful first."""
    wanted = (focus, Focus.ANYWHERE, Focus.EVERYWHERE) if focus.is_panel else (focus,)
    return sorted(
        (action for action in ACTIONS if action.footer and action.focus in wanted), key=lambda action: action.footer
    )
