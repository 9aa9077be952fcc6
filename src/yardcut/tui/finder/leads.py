"""Where what was found leads: an action that is done, a line that is begun, a column that is gone to."""

from __future__ import annotations

from yardcut.core.language.functions import FUNCTIONS
from yardcut.core.quick_dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Lead:
    """What Enter does: carry out ``action`` (an id), begin a line with ``text``, or go to the column at ``place``.

    ``{column}`` in a text stands for the column under the cursor. Of a text, ``inserts`` is what goes in where the
    cursor stands while a line is written already. Nothing at all is a lead too: some entries only tell.
    """

    action: str = ""
    text: str = ""
    inserts: str = ""
    place: int | None = None


@dataclass(frozen=True, slots=True)
class Entry:
    """One thing that can be found: ``left`` is its key, form or name, ``right`` what it does.

    ``words`` find it beside what is shown; ``moves`` says that it only scrolls or steps, which comes last.
    """

    section: str
    left: str
    right: str
    lead: Lead = Lead()
    words: str = ""
    moves: bool = False

    @property
    def text(self) -> str:
        """All words that find it."""
        return f"{self.section} {self.left} {self.words} {self.right}"


def does(action: str) -> Lead:
    """Return the lead to an action."""
    return Lead(action=action)


def begins(text: str) -> Lead:
    """Return the lead to a line that begins so."""
    return Lead(text=text)


def calls_function(name: str) -> Lead:
    """Return the lead to a function: put in where a line is written, else a tally or a new column begins with it."""
    signature = FUNCTIONS[name]
    first = "tally " if signature.tallies else "keep " if signature.name == "REPEATED" else "make new = "
    return Lead(text=first + signature.opening, inserts=signature.opening)
