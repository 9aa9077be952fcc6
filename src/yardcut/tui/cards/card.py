"""What all cards share: keys through the table of actions, work of their own that ends with them."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from typing import ClassVar, TypeVar

from textual import events, messages, on
from textual.await_complete import AwaitComplete
from textual.message import Message
from textual.screen import ModalScreen
from textual.widget import Widget
from textual.widgets import Input

from yardcut.tui.keys.dispatcher import Calls, Dispatcher
from yardcut.tui.keys.editing import edit_now
from yardcut.tui.keys.focus import Focus, Need
from yardcut.tui.sizes import Fitting
from yardcut.tui.widgets.footer import Footer
from yardcut.tui.workers import Jobs

Answer = TypeVar("Answer")
FRAME_CELLS = 7
"""Border, padding and scrollbar of a card."""


class Card(ModalScreen[Answer]):
    """A card. ``FOCUS`` says which keys count on it."""

    FOCUS: ClassVar[Focus] = Focus.CARD
    takes_keys = True

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {"put-away": self.put_away}

    def footer(self, without: Collection[str] = (), said: Mapping[str, str] | None = None) -> Footer:
        """Return the footer with the card's keys; some actions (by id) are left out or said otherwise."""
        return Footer(focus=self.FOCUS, without=without, said=said)

    @on(Footer.Pressed)
    def _pressed(self, event: Footer.Pressed) -> None:
        event.stop()
        dispatcher: Dispatcher = self.app.dispatcher  # type: ignore[attr-defined] # ours is the only app
        dispatcher.carry_out(event.action)

    def text_cells(self, wanted: int, others: int, least: int = 12) -> int:
        """Return how many cells a column of texts gets beside ``others`` that must be seen, at most ``wanted``."""
        return max(least, min(wanted, self.app.size.width * 98 // 100 - FRAME_CELLS - others))

    def put_away(self) -> None:
        """Close the card, with nothing chosen."""
        self.dismiss(None)

    def on_mount(self) -> None:
        """Say of which rows its figures are while a source is being read; take the keys typed meanwhile."""
        self._say_so_far()
        dispatcher: Dispatcher = self.app.dispatcher  # type: ignore[attr-defined] # ours is the only app
        self.call_later(dispatcher.release)

    def _say_so_far(self) -> None:
        """Say of which rows its figures are, as they are now."""
        if self.is_attached:
            self._so_far = self.app.so_far  # type: ignore[attr-defined] # ours is the only app
            self._say_below(self._so_far)

    def _say_below(self, said: str) -> None:
        for page in self.query(".card"):
            page.border_subtitle = "" if said and said in str(page.border_title) else said

    def on_resize(self) -> None:
        """Leave away what there is no room for."""
        if self._fitting is None:
            self._fitting = Fitting(self)
        self._fitting.show()

    def dismiss(self, result: Answer | None = None) -> AwaitComplete:
        """Close the card, once. Its work ends here, before its parts are gone.

        News of a choice or a second key may still come when it is closed already.
        """
        self.end_work()
        if self.app.screen is not self or self._is_put_away:
            nothing: AwaitComplete = AwaitComplete.nothing()  # type: ignore[no-untyped-call] # Textual has no types here
            return nothing
        self._is_put_away = True
        return super().dismiss(result)

    async def _on_message(self, message: Message) -> None:
        """Take news of a part, unless the card is put away: its parts are gone when what they said last comes."""
        sender = message._sender
        is_own = type(message).__module__ == messages.__name__  # Textual's own, which takes the card down
        is_news = isinstance(sender, Widget) and sender is not self and not isinstance(message, events.Event)
        if is_own or not (self._is_put_away and is_news):
            await super()._on_message(message)

    def after_refresh(self, call: Callable[[], object]) -> None:
        """Do something when the screen has been drawn, unless the card is closed by then and has lost its parts."""
        self.call_after_refresh(lambda: call() if self in self.app.screen_stack else None)

    def on_unmount(self) -> None:
        """Stop what is still under way, however the card was closed."""
        self.end_work()

    def end_work(self) -> None:
        """Let nothing that is still under way come back to the card."""
        if self._jobs is not None:
            self._jobs.stop_all()

    _is_put_away = False
    _so_far = ""
    _jobs: Jobs | None = None
    _fitting: Fitting | None = None

    @property
    def jobs(self) -> Jobs:
        """The card's own work."""
        if self._jobs is None:
            self._jobs = Jobs(self.app)
        return self._jobs

    # where keys go

    @property
    def is_ready(self) -> bool:
        """False until its parts are there."""
        return self.is_mounted

    @property
    def focus_now(self) -> Focus:
        """Which keys count."""
        return self.FOCUS

    @property
    def takes_text(self) -> bool:
        """True while letters are text."""
        return isinstance(self.focused, Input)

    def take_text(self, text: str) -> bool:
        """Put typed text into the field that has the focus, at once; without one it is nobody's."""
        if isinstance(self.focused, Input):
            self.focused.insert_text_at_cursor(text)
        return True

    def edit(self, key: str) -> bool:
        """Carry out an editing key of the field that has the focus, at once."""
        return isinstance(self.focused, Input) and edit_now(self.focused, key)

    def unmet(self, need: Need) -> str | None:
        """Say what is missing: figures of the first rows of a source are for looking only."""
        if need is not Need.WHOLE or not self._so_far:
            return None
        return f"that waits: these figures are {self._so_far}; open this again when all of it is read"

    def waits_for(self, need: Need) -> bool:
        """Nothing is waited for."""
        return False

    def say(self, text: str, style: str = "") -> None:
        """Say below the card why a key does nothing; what a card says of its own it says in its own place."""
        self._say_below(text)

    def hand_on(self, event: events.Key) -> None:
        """Give a key that is no action to the widget that has the focus."""
        self._forward_event(event)
