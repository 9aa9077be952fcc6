"""The line of the list that a card is about, as it is at every moment."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from yardcut.core.language import syntax_trees as t
    from yardcut.core.run.executing.results import LineResult
    from yardcut.tui.desk.moment import Moment


class FollowedLine:
    """Found by where it stood when the card was opened; one of another verb in its place is not it any more."""

    def __init__(self, *bodies: type) -> None:
        self._bodies = bodies
        self.moment: Moment | None = None
        self.index = -1
        self.statement: t.Statement | None = None
        self.has_changed = False
        """True when the line reads otherwise than at the moment before, or its rows are others."""
        self.is_rewritten = False
        """True when it reads otherwise: else a card's cursor stays where it was moved to, whatever comes."""
        self._result: LineResult | None = None

    def follow(self, moment: Moment) -> bool:
        """Take the line as it is now; ``False`` when it is gone."""
        self.index = moment.selected if self.moment is None else self.index
        self.moment = moment
        line = moment.lines[self.index] if self.index < len(moment.lines) else None
        if line is None or line.statement is None or not isinstance(line.statement.body, self._bodies):
            return False
        result = moment.result_at(self.index)
        self.is_rewritten = self.statement != line.statement
        self.has_changed = self.is_rewritten or self._result is not result
        self.statement, self._result = line.statement, result
        return True
