"""The draw of a line: its number nudged, its groups, and whether it looks like the whole."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.containers import Vertical, VerticalScroll
from textual.content import Content
from textual.widgets import Static

from yardcut.core.language.helping.twins import twins
from yardcut.core.language.lines import statement_text
from yardcut.core.language.verbs.draw_parts import BoundDraw, Draw
from yardcut.core.profile.balance import ColumnBalance, column_balances
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import scroll_calls
from yardcut.tui.cards.lines.draw_drawing import balance_drawn, groups_drawn
from yardcut.tui.cards.lines.followed_line import FollowedLine
from yardcut.tui.desk.offering.deeds import Deed
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, glance, plural
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.run.executing.results import LineResult
    from yardcut.tui.desk.moment import Moment

_MOST_COLUMNS = 60
_TOLD_AFTER = 4


@dataclass(frozen=True, slots=True)
class DrawEdits:
    """What the card may ask of the list: a nudge by steps or tenths, another seed, a dial, the last edit back."""

    nudge: Callable[[int, bool], str]
    next_seed: Callable[[], str]
    make_dial: Callable[[], str]
    step: Callable[[bool], str]


class DrawCard(Card[Deed | None]):
    """Shows the draw of one line as it is at every moment; each nudge is one of the list at once."""

    FOCUS = Focus.DRAW

    def __init__(self, edits: DrawEdits) -> None:
        super().__init__()
        self._edits = edits
        self._followed = FollowedLine(Draw)
        self._shown: LineResult | None = None
        self._page = Vertical(classes="card", id="draw-card")
        self._head, self._groups, self._balance = Static("…"), Static(""), Static("")
        self._said = Static("", id="draw-said")

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with self._page:
            yield self._head
            with VerticalScroll(can_focus=False):
                yield self._groups
                yield self._balance
            yield self._said
        yield self.footer()

    def on_mount(self) -> None:
        """Show the draw."""
        self._draw()

    def show(self, moment: Moment) -> None:
        """Show the line as it is now; its counts come as soon as its result is there."""
        self._say_so_far()
        if not self._followed.follow(moment):
            if self.is_mounted:
                self.put_away()
            return
        if self.is_mounted:
            self._draw()

    def _draw(self) -> None:
        moment = self._followed.moment
        if moment is None:
            return
        line = moment.lines[self._followed.index]
        assert line.statement is not None
        self._page.border_title = f"line {self._followed.index + 1}"
        result = moment.result_at(self._followed.index)
        if result is None:
            self._shown = None
            self.jobs.stop(Job.PROFILE)
            wrong = moment.wrong
            waits = "…" if wrong is None or wrong[0] > self._followed.index else str(wrong[1])
            self._head.update(
                Content.assemble((clean(statement_text(line.statement)), "bold"), (f"   {clean(waits)}", "$warning"))
            )
            self._groups.update("")
            self._balance.update("")
            return
        if result is self._shown:
            return
        self._shown = result
        taken = f"   {result.before.rows.count:,} → {plural(result.rows.count, 'row')}"
        notes = "".join(f"\n{clean(note)}" for note in result.notes)
        self._head.update(
            Content.assemble((clean(statement_text(line.statement)), "bold"), (taken, "$count"), (notes, "$none"), "\n")
        )
        self._show_groups(result)
        self._look(result, moment)

    @property
    def _width(self) -> int:
        return max(20, min(112, self.size.width * 98 // 100) - 8)

    def _show_groups(self, result: LineResult) -> None:
        if not result.strata:
            self._groups.update("")
            return
        alike: dict[str, str] = {}
        for group in twins((each.label, each.there) for each in result.strata[:10_000]):
            for text, _ in group:
                alike[text] = ", ".join(f"'{glance(other)}'" for other, _ in group if other != text)
        self._groups.update(groups_drawn(result.strata, alike, _word(result), self._width) + Content("\n"))

    def _look(self, result: LineResult, moment: Moment) -> None:
        """Compare the draw with the whole, behind the card; columns come as they are known."""
        body = result.line.bound.body if result.line.bound is not None else None
        if not isinstance(body, BoundDraw):
            self.jobs.stop(Job.PROFILE)
            self._balance.update(Content.styled("switched off: nothing is drawn, and all rows are left", "$dim"))
            return
        draw, columns = body.draw, result.before.columns[:_MOST_COLUMNS]
        strata = [each.name for each in columns if each.value in body.groups]
        found: list[ColumnBalance] = []
        by_chance = draw.is_by_chance and draw.strata is None and draw.weight is None
        runner = moment.executor.runner
        self._balance.update(Content.styled("looking at the columns …", "$dim"))

        def work(token: CancelToken, progress: Progress) -> list[ColumnBalance]:
            for each in column_balances(columns, result.before, result.frame, runner, token):
                found.append(each)
                if len(found) % _TOLD_AFTER == 0:
                    self.jobs.tell(token, show, list(found))
            return found

        def show(so_far: list[ColumnBalance]) -> None:
            self._balance.update(
                balance_drawn(so_far, strata, by_chance, self._width) if result.rows.count else "nothing is drawn"
            )

        self.jobs.start(Job.PROFILE, work, show, lambda error: self.say(str(error)))

    def say(self, text: str, style: str = "$would") -> None:
        """Say something below."""
        self._said.update(Content.styled(clean(text), style))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "draw-away": self.put_away,
            "draw-more": lambda: self.say(self._edits.nudge(1, False)),
            "draw-less": lambda: self.say(self._edits.nudge(-1, False)),
            "draw-many-more": lambda: self.say(self._edits.nudge(1, True)),
            "draw-many-less": lambda: self.say(self._edits.nudge(-1, True)),
            "draw-dial": lambda: self.say(self._edits.make_dial()),
            "draw-seed": lambda: self.say(self._edits.next_seed()),
            "draw-rest": lambda: self.dismiss(Deed(own="draw the rest")),
            "draw-picture": lambda: self.dismiss(Deed(own="picture")),
            "draw-write": lambda: self.dismiss(Deed(own="write the draw")),
            "draw-undo": lambda: self.say(self._edits.step(False)),
            "draw-redo": lambda: self.say(self._edits.step(True)),
            **scroll_calls("draw", self.query_one(VerticalScroll)),
        }


def _word(result: LineResult) -> str:
    body = result.line.statement.body if result.line.statement is not None else None
    return "left" if isinstance(body, Draw) and body.remainder else "drawn"
