"""The footer: the keys that work right here, most useful first, on the main screen and on cards alike."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from textual import events
from textual.content import Content
from textual.message import Message
from textual.widgets import Static

from yardcut.tui.keys.actions import Action
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import keymap
from yardcut.tui.keys.names import is_typed, key_text

_PANELS = {Focus.GRID: " table ", Focus.LIST: " list "}
"""Which panel has the focus, in words: plain without colours too."""

_HELP = "help"


class Footer(Static):
    """One line of keys for the focus of now; a click on one carries it out.

    Some actions (by id) are left out (``without``) or ``said`` otherwise; ``first`` are keys with what they do that are
    no actions: the answers of a question.
    """

    class Pressed(Message):
        """An action was clicked."""

        def __init__(self, action: Action) -> None:
            super().__init__()
            self.action = action

    def __init__(
        self, *, focus: Focus = Focus.GRID, without: Collection[str] = (), said: Mapping[str, str] | None = None,
        first: tuple[tuple[str, str], ...] = (),
        id: str | None = None,  # noqa: A002 - Textual's own name
    ) -> None:  # fmt: skip
        super().__init__(id=id)
        self._places: list[tuple[int, int, Action]] = []
        self._focus, self._without, self._hints = focus, frozenset(without), said or {}
        self._offered: frozenset[str] | None = None
        self._first = first

    def show_focus(self, focus: Focus, offered: frozenset[str] | None = None) -> None:
        """Show the keys of a focus, of those actions (by id) alone that are offered now where not all are."""
        if (focus, offered) != (self._focus, self._offered):
            self._focus, self._offered = focus, offered
            self._draw()

    def leave_out(self, without: Collection[str]) -> None:
        """Show all keys but those of some actions (by id)."""
        if frozenset(without) != self._without:
            self._without = frozenset(without)
            self._draw()

    def on_resize(self) -> None:
        """Fit as many keys as there is room for."""
        self._draw()

    def _groups(self) -> list[tuple[str, list[Action]]]:
        """Return what can be done with its keys; keys with one word for both stand together: "← → turn"."""
        found: dict[str, list[Action]] = {}
        for action in keymap().footer_actions(self._focus):
            is_offered = self._offered is None or action.id in self._offered
            if is_offered and action.id not in self._without and action.id != _HELP:
                found.setdefault(self._hints.get(action.id, action.hint), []).append(action)
        return list(found.items())

    def _draw(self) -> None:
        finding = keymap().action(_HELP)
        help_key = next((key for key in finding.keys if self._focus.is_panel or not is_typed(key)), finding.keys[0])
        tail = f"{key_text(help_key)} {finding.hint}"
        room = self.size.width - 2 - len(tail)
        self._places = []
        panel = _PANELS.get(self._focus, "")
        parts: list[str | Content | tuple[str, str]] = [(panel, "$accent reverse bold"), " "]
        at = 1 + len(panel)
        for key, hint in self._first:
            parts += [(key, "$accent bold"), (f" {hint}  ", "$dim")]
            at += len(key) + len(hint) + 3
        for hint, actions in self._groups():
            keys = [key_text(action.keys[0]) for action in actions]
            size = len(" ".join(keys)) + 1 + len(hint) + 2
            if at + size > room:
                break
            parts += [(" ".join(keys), "$accent bold"), (f" {hint}  ", "$dim")]
            start = at
            for action, key in zip(actions, keys, strict=True):
                end = start + len(key) + 1 if action is not actions[-1] else at + size - 2
                self._places.append((start, end, action))
                start = end
            at += size
        parts.append(" " * max(0, self.size.width - 1 - at - len(tail)))
        at = self.size.width - 1 - len(tail)
        parts += [(key_text(help_key), "$accent bold"), (f" {finding.hint}", "$dim")]
        self._places.append((at, at + len(tail), finding))
        self.update(Content.assemble(*parts))

    def on_click(self, event: events.Click) -> None:
        """Carry out what was clicked."""
        for start, end, action in self._places:
            if start <= event.x < end:
                self.post_message(self.Pressed(action))
                return
