"""Where a key is pressed, and what an action needs before it can be carried out."""

from __future__ import annotations

from enum import Enum


class Focus(Enum):
    """Where a key is pressed. The value names it on the page of keys."""

    EVERYWHERE = "Everywhere"
    ANYWHERE = "In the table and on the list"
    GRID = "In the table"
    LIST = "On the list"
    PROMPT = "While a line is written"
    QUESTION = "While a question is answered in the prompt's place"
    FIND = "While a text is looked for"
    CARD = "On a card"
    ROW = "On the row card"
    SOURCE = "On the source card"
    PROFILE = "On the profile of all columns"
    RACK = "On the rack of columns"
    CUTS = "Among the cuts of the list"
    COLUMN = "On the column card"
    CELL = "On the cut card"
    VALUES = "On the values of a column"
    BOUNDS = "On the bounds of a column"
    TREE = "On the tree of a line's condition"
    ORDER = "On the keys of an order"
    TALLY = "On the parts of a tally"
    BRING = "While columns are brought from a second table"
    KEYS_APART = "Among keys that only one of two tables has"
    DRAW = "On the card of a draw"
    PICTURE = "On a picture"
    WHY = "Where it is asked why so few rows are left"
    COPYING = "Where it is chosen what to copy"
    REASONS = "On the reasons of an offcut"
    TABLES = "When a file holds several tables"
    KEPT = "Among kept lists"
    DIALS = "On the dials"
    DIAL_VALUES = "On the values of a dial"
    SAVING = "On the options of a save"
    PART_COLUMNS = "On the columns a slice is parted by"
    COMPARE = "Where two cuts are compared"
    CHOICES = "On any list of choices"
    HELP = "On the page that finds"

    @property
    def has_choices(self) -> bool:
        """True for cards with a list to choose from, where ``CHOICES`` counts too."""
        return self in _WITH_CHOICES

    @property
    def homes(self) -> tuple[Focus, ...]:
        """Where an action for a key is looked for, one after the other."""
        panel = (Focus.ANYWHERE,) if self.is_panel else ()
        choices = (Focus.CHOICES,) if self.has_choices else ()
        return (self, *panel, *choices, Focus.EVERYWHERE)

    @property
    def is_panel(self) -> bool:
        """True for the panels of the main screen, where ``ANYWHERE`` counts too."""
        return self in (Focus.GRID, Focus.LIST)


_WITH_CHOICES = frozenset(
    [
        Focus.SOURCE, Focus.PROFILE, Focus.COLUMN, Focus.CELL, Focus.VALUES, Focus.TREE, Focus.WHY, Focus.REASONS,
        Focus.ORDER, Focus.CUTS, Focus.TABLES, Focus.KEPT, Focus.DIALS, Focus.DIAL_VALUES, Focus.SAVING, Focus.COMPARE,
        Focus.TALLY, Focus.BRING, Focus.KEYS_APART, Focus.HELP, Focus.PART_COLUMNS, Focus.COPYING,
    ]
)  # fmt: skip


class Need(Enum):
    """What must be there for an action."""

    NOTHING = "nothing"
    LIST = "an open table with its list"
    LINE = "a selected line"
    CELL = "a cell under the cursor"
    COLUMN = "a column under the cursor"
    TRIED = "what is wrong with the line being written"
    WHOLE = "all of the source, read to its end"
    COUNTED = "the rows that the last line leaves, counted, of all of the source"


class Edits(Enum):
    """What an action may do to the list."""

    NEVER = "nothing"
    ONCE = "at most one edit, which undo takes back"
    SERIES = "an edit that is one with others of its kind before it"
    BACK = "takes the last edit back"
    FORTH = "does the edit again that was taken back"
