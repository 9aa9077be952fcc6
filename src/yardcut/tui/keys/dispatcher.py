"""One place where keys are carried out, in the order typed, each when what it needs is there."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Mapping
from typing import Protocol

from textual import events

from yardcut.tui.keys.actions import Action
from yardcut.tui.keys.focus import Focus, Need
from yardcut.tui.keys.keymap import keymap
from yardcut.tui.keys.terminal import meant

_MOST_LOOKS = 60
"""Keys wait for so many looks, ten a second: who types into a long wait is told, and not surprised later.

Counted and not timed: where others take the processor, neither looks nor reading go on.
"""

_READING = "the source is still being read"

Calls = Mapping[str, Callable[[], object]]


class Place(Protocol):
    """Where keys go now: the main screen, or the card that lies over it."""

    takes_keys: bool
    """True; tells a place from other screens."""

    @property
    def is_ready(self) -> bool:
        """False while it is still being put together."""

    @property
    def focus_now(self) -> Focus:
        """The focus of now."""

    @property
    def calls(self) -> Calls:
        """What carries out the actions of this place, by their ids."""

    @property
    def takes_text(self) -> bool:
        """True while letters are text."""

    def take_text(self, text: str) -> bool:
        """Put typed text in at once, if this place has its own field for it; else it goes Textual's way."""

    def edit(self, key: str) -> bool:
        """Carry out an editing key of the text field that has the focus, at once; tells whether it was one."""

    def unmet(self, need: Need) -> str | None:
        """Say what is missing for a need, or nothing when it is met."""

    def waits_for(self, need: Need) -> bool:
        """Tell whether an unmet need will be met by itself in a moment."""

    def say(self, text: str, style: str = "$would") -> None:
        """Tell the user."""

    def hand_on(self, event: events.Key) -> None:
        """Give a key that is no action to the widget that has the focus."""


_OF_THE_FIELD = frozenset({"backspace", "delete", "home", "end"})
"""Where text is typed these are for the text, whatever they do beside it."""


class Dispatcher:
    """Takes every key first.

    A key is carried out before the next one is looked at. One whose need is about to be met is kept, and all that come
    after it with it; Escape lets them go.
    """

    def __init__(self, place: Callable[[], Place | None], everywhere: Callable[[], Calls]) -> None:
        self._place = place
        self._everywhere = everywhere
        self._kept: deque[events.Key | events.Paste] = deque()
        self._looks = 0
        self._missing = _READING
        self.put_off: Callable[[Action], None] = lambda action: None
        """Told of an action of the main screen that cannot be done now; where that is for a while, it is done later."""

    def take(self, event: events.Key | events.Paste) -> bool:
        """Carry out a key, keep it, or leave it to Textual (``False``)."""
        if isinstance(event, events.Key):
            keys = meant(event)
            if keys != [event]:
                for key in keys:
                    self.take(key)
                return True
        if self._kept:
            if not isinstance(event, events.Key) or event.key not in ("escape", "ctrl+g", "ctrl+q"):
                self._kept.append(event)
                return True
            self._kept.clear()
        return self._try(event)

    def release(self) -> None:
        """Carry out keys that were kept, as far as what they need is there now."""
        while self._kept:
            event = self._kept.popleft()
            rest, self._kept = self._kept, deque()
            try:
                self._try(event, again=True)
            finally:
                is_kept_again = bool(self._kept)
                self._kept += rest
            if is_kept_again:
                return
            self._looks = 0

    def let_go(self) -> None:
        """Look at keys that wait, and drop those that have waited too long, once there is a screen to tell it on."""
        place = self._place()
        if place is None or not place.is_ready or not self._kept:
            self._looks = 0
            return
        self._looks += 1
        if self._looks > _MOST_LOOKS:
            self._kept.clear()
            place.say(f"{self._missing}: the keys typed meanwhile were let go")

    def press(self, action: Action) -> None:
        """Carry out an action, as if its key had been pressed."""
        self.take(events.Key(action.keys[0], None))

    def carry_out(self, action: Action) -> None:
        """Carry out an action of the place where keys go now, whatever the key would be there."""
        place = self._place()
        if place is not None:
            self._carry_out(action, events.Key(action.keys[0], None), place, again=False)

    def _keep(self, event: events.Key | events.Paste, again: bool) -> bool:
        if not self._kept and not again:
            self._looks = 0
        self._kept.append(event)
        return True

    def _try(self, event: events.Key | events.Paste, again: bool = False) -> bool:
        place = self._place()
        if place is None or not place.is_ready:
            self._missing = _READING
            return self._keep(event, again)
        if isinstance(event, events.Paste):
            return place.take_text(event.text)
        is_letter = event.is_printable and event.character is not None
        if place.takes_text and event.key in _OF_THE_FIELD and place.edit(event.key):
            return True
        if not (is_letter and place.takes_text):
            action = keymap().action_for(place.focus_now, event.key)
            if action is not None:
                return self._carry_out(action, event, place, again)
        if is_letter and place.takes_text:
            assert event.character is not None
            if place.take_text(event.character):
                return True
        if place.takes_text and place.edit(event.key):
            return True
        if again:
            place.hand_on(event)
            return True
        return False

    def _carry_out(self, action: Action, event: events.Key, place: Place, again: bool) -> bool:
        missing = place.unmet(action.need)
        if missing is not None:
            if place.waits_for(action.need):
                self._missing = missing
                if action.need is Need.COUNTED and not again:
                    place.say(f"{missing}; then: {action.hint}")
                return self._keep(event, again)
            place.say(missing)
            if place.focus_now.is_panel:
                self.put_off(action)
            return True
        call = place.calls.get(action.id) or self._everywhere().get(action.id)
        if call is not None:
            call()
        return call is not None
