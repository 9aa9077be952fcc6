"""The page that finds: opened from anywhere, and what was found there is done where it can be done."""

from __future__ import annotations

from typing import TYPE_CHECKING

from textual import events

from yardcut.core.language.syntax.printing import name_text
from yardcut.tui.cards.card import Card
from yardcut.tui.finder.leads import Entry, Lead
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import keymap
from yardcut.tui.keys.names import key_text
from yardcut.tui.text import clean

if TYPE_CHECKING:
    from yardcut.tui.keys.actions import Action
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage

_OPENED_BY: dict[Focus, str] = {
    Focus.PROMPT: "write", Focus.FIND: "find", Focus.ROW: "row-card", Focus.SOURCE: "source", Focus.PROFILE:
    "profile", Focus.RACK: "rack", Focus.CUTS: "cuts", Focus.COLUMN: "column-card", Focus.CELL: "cell-card",
    Focus.VALUES: "values", Focus.BOUNDS: "values", Focus.TREE: "tree", Focus.ORDER: "tree", Focus.TALLY:
    "tally", Focus.BRING: "bring", Focus.KEYS_APART: "keys-apart", Focus.DRAW: "draw", Focus.PICTURE: "picture",
    Focus.WHY: "why", Focus.REASONS: "reasons", Focus.KEPT: "kept", Focus.DIALS: "dials", Focus.DIAL_VALUES:
    "dials", Focus.QUESTION: "save", Focus.SAVING: "save", Focus.PART_COLUMNS: "save", Focus.COMPARE: "cuts",
}  # fmt: skip
"""The action that opens the place in which keys of a focus count."""


class FinderHands:
    """Opens the page and follows where it leads."""

    def __init__(self, stage: Stage, prompting: Prompting) -> None:
        self._stage = stage
        self._prompting = prompting
        prompting.find = self.open

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "help": self.open,
        }

    def open(self, search: str = "") -> None:
        """Open the page, over whatever is there; on the page itself nothing is opened."""
        from yardcut.tui.finder.findable import entries
        from yardcut.tui.finder.finder import FinderCard

        app = self._stage.app
        if isinstance(app.screen, FinderCard):
            return
        shown = enumerate(self._stage.grid.source.columns)
        columns = [(column.name, column.kind, place) for place, column in shown]
        app.push_screen(FinderCard(entries(columns), self._says, search), self._follow)

    # what is said of an entry

    @property
    def _beneath(self) -> Focus:
        """The focus below the page."""
        below = [screen for screen in self._stage.app.screen_stack if isinstance(screen, Card)]
        cards = [card for card in below if card.FOCUS is not Focus.HELP]
        return cards[-1].focus_now if cards else self._stage.focus_now

    def _says(self, entry: Entry) -> str:
        """Tell what Enter does."""
        lead, enter = entry.lead, key_text(keymap().action("help-do").keys[0])
        if lead != Lead() and not self._can_follow(lead):
            return "a table is to be chosen first"
        if lead.action:
            action = keymap().action(lead.action)
            opens = self._opened_first(action)
            if opens is not None:
                there = f"({key_text(opens.keys[0])}); there it is {key_text(action.keys[0])}"
                return f"{enter} goes where that is done {there}"
            return f"{enter} does it"
        if lead.place is not None:
            return f"{enter} goes to the column"
        if lead.text:
            return f"{enter} begins the line:  {clean(self._text_of(lead))}"
        return ""

    def _opened_first(self, action: Action) -> Action | None:
        """Return the action that opens where another one can be done, unless it can be done right here."""
        focus, beneath = action.focus, self._beneath
        if focus in (Focus.ANYWHERE, Focus.EVERYWHERE) or focus.is_panel or focus in beneath.homes:
            return None
        opens = _OPENED_BY.get(focus)
        return None if opens is None else keymap().action(opens)

    def _text_of(self, lead: Lead) -> str:
        column = self._stage.grid.cursor_column
        if column is None or "{column}" not in lead.text:
            return lead.text.partition("{column}")[0]
        return lead.text.replace("{column}", name_text(column.name))

    def _can_follow(self, lead: Lead) -> bool:
        """Tell whether there is somewhere to go: while a table is being chosen, nothing is open yet."""
        focus = keymap().action(lead.action).focus if lead.action else None
        return self._beneath is not Focus.TABLES or focus in Focus.TABLES.homes

    # what was chosen

    def _follow(self, lead: Lead | None) -> None:
        if lead is None or not self._can_follow(lead):
            return
        stage = self._stage
        if lead.place is not None:
            self._to_main()
            stage.focus(stage.grid)
            stage.leave_row()
            stage.grid.go_to(column=lead.place)
        elif lead.action:
            self._act(keymap().action(lead.action))
        elif lead.text:
            self._begin(lead)

    def _act(self, action: Action) -> None:
        stage = self._stage
        opens = self._opened_first(action)
        wanted = opens or action
        if wanted.focus not in self._beneath.homes or (opens is not None):
            self._to_main()
        if wanted.focus is Focus.LIST:
            stage.list_panel.remove_class("folded")
            stage.focus(stage.list_panel)
        elif wanted.focus is Focus.GRID:
            stage.focus(stage.grid)
        stage.dispatcher.carry_out(wanted)

    def _begin(self, lead: Lead) -> None:
        """Begin a line; where one is being written, a function goes in at the cursor."""
        stage = self._stage
        if stage.mode is not None and stage.mode.focus is Focus.PROMPT and lead.inserts:
            stage.prompt.take_text(lead.inserts)
            return
        text = self._text_of(lead)
        self._to_main()
        self._prompting.write(text)

    def _to_main(self) -> None:
        """Put cards away, and a line that is being written: it comes back with a key."""
        stage = self._stage
        while isinstance(stage.app.screen, Card) and stage.app.screen.FOCUS is not Focus.HELP:
            before = len(stage.app.screen_stack)
            stage.app.screen.put_away()
            if len(stage.app.screen_stack) == before:
                break
        if stage.mode is not None:
            back = keymap().action_for(stage.focus_now, "escape")
            if back is not None:
                stage.dispatcher.take(events.Key(back.keys[0], None))
