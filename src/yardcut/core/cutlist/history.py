"""Undo and redo, without end, over whole values."""

from __future__ import annotations

from collections.abc import Hashable
from typing import Generic, TypeVar

_State = TypeVar("_State")


class History(Generic[_State]):
    """The states a value went through, and where in them it stands now."""

    def __init__(self, state: _State) -> None:
        self._states = [state]
        self._at = 0
        self._series: Hashable = None

    @property
    def now(self) -> _State:
        """The state of now."""
        return self._states[self._at]

    def push(self, state: _State, series: Hashable = None) -> None:
        """Go on to a new state; what had been undone is forgotten.

        States of one ``series``, with nothing else between them, are one edit: undo goes back before the first. One
        that leads back to where the series began is none at all.
        """
        if series is not None and series == self._series:
            del self._states[self._at]
            self._at -= 1
            self._series = None
        if state != self.now:
            del self._states[self._at + 1 :]
            self._states.append(state)
            self._at += 1
            self._series = series

    def amend(self, state: _State) -> None:
        """Put another state in the place of the one of now: no edit of anybody's, and nothing to take back."""
        self._states[self._at], self._series = state, None

    def undo(self) -> bool:
        """Go one state back. Returns False at the first."""
        self._series = None
        if self._at == 0:
            return False
        self._at -= 1
        return True

    def redo(self) -> bool:
        """Go one state forward again. Returns False at the last."""
        self._series = None
        if self._at + 1 == len(self._states):
            return False
        self._at += 1
        return True
