"""What the keys do about rows that are gone: the offcut, its reasons, letting rows back in."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.desk.view import View
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import glance, plural
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from yardcut.core.run.executing.results import LineResult
    from yardcut.core.run.explaining.reason_groups import ReasonGroup
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.doing import Doing
    from yardcut.tui.main.stage import Stage


class OffcutHands:
    """Looking at what a line took, and why; having it take less."""

    def __init__(self, stage: Stage, doing: Doing, bring: Callable[[], None]) -> None:
        self._stage = stage
        self._doing = doing
        self._bring = bring

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "offcut": self._offcut,
            "offcut-grid": self._offcut,
            "reasons": self._reasons,
            "call-back": self._call_back,
            "why": self._why,
            "hints": self._hints,
        }

    @property
    def _desk(self) -> Desk:
        assert self._stage.desk is not None
        return self._stage.desk

    def _taking(self) -> LineResult | None:
        """Return the selected line's result where it takes rows; say so where it does not, or is not known."""
        now = self._desk.now
        result = now.result_at(now.selected)
        if result is None:
            self._stage.say(
                "the rows are still being counted" if now.wrong is None else "there is no offcut here: a line is wrong"
            )
        elif not result.taken:
            self._stage.say(f"line {now.selected + 1} removed no rows")
            return None
        return result

    def _offcut(self) -> None:
        """Show the rows the selected line removed, or of an order the rows as they stood before, and back."""
        from yardcut.core.language.verbs.verb import Effect

        now = self._desk.now
        line = now.lines[now.selected]
        if now.view is View.BEFORE:
            self._turn(View.ROWS)
        elif now.view is not View.ROWS:
            self._desk.look_at(View.ROWS)
        elif line.verb is not None and line.verb.effect is Effect.ARRANGES and now.result_at(now.selected) is not None:
            self._turn(View.BEFORE)
        elif self._taking() is not None:
            self._desk.look_at(View.OFFCUT)

    def _turn(self, view: View) -> None:
        """Show the same rows in another order, and the row under the cursor where it stands there."""
        grid = self._stage.grid
        cell = grid.cursor_cell()
        self._desk.look_at(view)
        if cell is not None and hasattr(grid.source, "position_of"):
            grid.go_to(row_position=grid.source.position_of(cell[1]))

    def _reasons(self) -> None:
        """Show the reasons of the offcut, each with its rows."""
        from yardcut.core.run.explaining.reason_groups import reason_groups

        result, now = self._taking(), self._desk.now
        if result is None:
            return

        def work(token: CancelToken, progress: Progress) -> list[ReasonGroup]:
            return reason_groups(result, now.executor, token)

        def found(groups: list[ReasonGroup]) -> None:
            from yardcut.tui.cards.looking.reasons import ReasonsCard

            if not groups:
                self._stage.say(
                    f"only keep and drop have reasons to be told apart; {key_of('offcut')} shows what this "
                    "line left out"
                )
                return
            title = f"line {now.selected + 1} removed {plural(result.taken, 'row')}"
            self._stage.app.push_screen(ReasonsCard(title, groups), chosen)

        def chosen(group: ReasonGroup | None) -> None:
            if group is not None and self._desk.now.result_at(now.selected) is result:
                said = f"gone for {glance(group.says)}: {plural(group.rows.count, 'row')}"
                self._desk.look_at_part(now.selected, result.before.with_rows(group.rows), said)

        self._stage.fetch_for_card(Job.TREE, work, found, self._stage.say_error)

    def _call_back(self) -> None:
        """Offer to let the row under the cursor back in."""
        from yardcut.core.run.explaining.way_back import ways_back
        from yardcut.tui.cards.looking.why import WhyCard

        now, grid = self._desk.now, self._stage.grid
        if not now.view.is_gone:
            self._bring()
            return
        if now.part is not None and now.part.mark:
            self._stage.say("these rows are compared; o on a line shows those it removed, and b there lets one back in")
            return
        result = self._taking()
        position = grid.viewport.row_position
        if result is None or not 0 <= position < grid.source.row_count:
            return
        row = grid.source.page(position, position + 1, ()).source_rows[0]
        title = f"let row {row:,} of the source through line {now.selected + 1}"
        executor = now.executor
        card = WhyCard(title, now.selected, lambda token: ways_back(result, row - 1, executor, token), None)
        self._stage.app.push_screen(card, self._doing.done)

    def _hints(self) -> None:
        """Offer the selected line as its hints say it is likely meant."""
        from yardcut.core.run.explaining.loosening import Loosening
        from yardcut.core.run.hinting.line_hints import line_hints
        from yardcut.tui.cards.looking.why import WhyCard
        from yardcut.tui.desk.offering.offers import Offer, count_offers

        now = self._desk.now
        index, result = now.selected, now.result_at(now.selected)
        if result is None:
            self._stage.say("the rows are still being counted")
            return

        def find(token: CancelToken) -> Iterator[Loosening]:
            for hint in line_hints(result, now.executor, token):
                leaves: dict[int, int] = {}
                if hint.mend:
                    count_offers(now, [Offer(0, index, hint.mend)], leaves.__setitem__, token)
                if leaves:
                    yield Loosening(f"{hint.says}: {hint.mend}", hint.mend, leaves[0])

        card = WhyCard(f"line {index + 1} as it is likely meant", index, find, None)
        self._stage.app.push_screen(card, self._doing.done)

    def _why(self) -> None:
        """Tell why so few rows are left: by the selected line, or by the one that took the most."""
        from yardcut.core.run.explaining.loosening import loosenings
        from yardcut.core.run.explaining.tree_counts import branches, condition_of
        from yardcut.tui.cards.looking.why import WhyCard

        now = self._desk.now
        if now.wrong is None and not now.is_counted:
            self._stage.say("the rows are still being counted")
            return
        able = [index for index, result in enumerate(now.results) if result.taken and condition_of(result) is not None]
        if not able:
            self._stage.say("no keep or drop takes a row")
            return
        index = now.selected if now.selected in able else max(able, key=lambda at: now.results[at].taken)
        result, executor = now.results[index], now.executor
        if index != now.selected:
            self._desk.select(index)
        title = f"line {index + 1} leaves {result.rows.count:,} of {result.before.rows.count:,}"
        card = WhyCard(
            title, index, lambda token: loosenings(result, executor, token),
            lambda token: branches(result, executor, token),
        )  # fmt: skip
        self._stage.app.push_screen(card, self._doing.done)
