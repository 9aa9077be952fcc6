"""What the prompt is used for: a mode of the main screen, which is there while it is open."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus

if TYPE_CHECKING:
    from yardcut.tui.desk.moment import Moment


class Mode(Protocol):
    """Something done in the prompt, from the moment it opens to the moment it closes."""

    @property
    def focus(self) -> Focus:
        """Which keys count meanwhile."""

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""

    @property
    def is_tried(self) -> bool:
        """True when it is known what the text as it stands now would do, or what is wrong with it."""

    @property
    def shows_rows(self) -> bool:
        """True while the grid shows what the text would do."""

    def text_changed(self, text: str) -> None:
        """The text was edited."""

    def moment_changed(self, before: Moment, now: Moment) -> None:
        """The list, its rows or its table changed behind the prompt: what is said of them is said anew."""

    def close(self) -> None:
        """End what it has under way."""
