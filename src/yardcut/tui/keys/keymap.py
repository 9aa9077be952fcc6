"""The keys in force: those of the table of actions, or a user's own."""

from __future__ import annotations

from collections.abc import Sequence

from yardcut.tui.keys.actions import ACTIONS, Action
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.names import key_text


class Keymap:
    """Which action a key means in a focus, and which key an action has."""

    def __init__(self, actions: Sequence[Action] = ACTIONS) -> None:
        self.actions = tuple(actions)
        self._by_key = {(action.focus, key): action for action in actions for key in action.keys}
        self._by_id = {action.id: action for action in actions}

    def action_for(self, focus: Focus, key: str) -> Action | None:
        """Return what a key does in a focus, if anything."""
        return next((found for home in focus.homes if (found := self._by_key.get((home, key))) is not None), None)

    def footer_actions(self, focus: Focus) -> list[Action]:
        """Return what the footer shows in one focus, most useful first."""
        wanted = (focus, Focus.ANYWHERE, Focus.EVERYWHERE) if focus.is_panel else (focus,)
        return sorted(
            (action for action in self.actions if action.footer and action.focus in wanted),
            key=lambda action: action.footer,
        )

    def action(self, name: str) -> Action:
        """Return an action by its id."""
        return self._by_id[name]

    def key_of(self, name: str) -> str:
        """Return the first key of an action by its id, as people read it."""
        return key_text(self._by_id[name].keys[0])


_now = [Keymap()]


def keymap() -> Keymap:
    """Return the keys in force."""
    return _now[0]


def use_keymap(own: Keymap) -> None:
    """Let other keys be in force."""
    _now[0] = own


def key_of(name: str) -> str:
    """Return the first key of an action by its id, as people read it: sentences name actions, never keys."""
    return keymap().key_of(name)
