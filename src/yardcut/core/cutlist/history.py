"""Undo and redo, without end, over whole values."""

from __future__ import annotations

from typing import Generic, TypeVar

_State = TypeVar("_State")


class History(Generic[_State]):
    """The states a value went through, and where in them it stands now."""

    def __init__(self, state: _State) -> None:
        self._states = [state]
        self._at = 0

    @property
    def now(self) -> _State:
        """The state of now."""
        return self._states[self._at]

    def push(self, state: _State) -> None:
        """Go on to a new state; what had been undone is forgotten."""
        if state != self.now:
            del self._states[self._at + 1 :]
            self._states.append(state)
            self._at += 1

    def amend(self, state: _State) -> None:
        """Put another state in the place of the one of now: no edit of anybody's, and nothing to take back."""
        self._states[self._at] = state

    def undo(self) -> bool:
        """Go one state back. Returns False at the first."""
        if self._at == 0:
            return False
        self._at -= 1
        return True

    def redo(self) -> bool:
        """Go one state forward again. Returns False at the last."""
        if self._at + 1 == len(self._states):
            return False
        self._at += 1
        return True
