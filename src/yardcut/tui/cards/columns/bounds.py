"""Two bounds moved over a column's distribution, the rows between them counted as they move."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import Static

from yardcut.core.language.helping.value_sets import value_literal
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.profile.extremes import ExtremeRound
from yardcut.core.profile.nudging import Scale
from yardcut.core.profile.summary import Summary
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.values.kinds import Kind
from yardcut.tui.cards.card import Card
from yardcut.tui.desk.offering.deeds import Deed
from yardcut.tui.desk.offering.offers import Offer, count_offers
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, fit, glance
from yardcut.tui.widgets.distribution import heap_said, histogram, scale_line
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.language.meaning.bound import ShownColumn
    from yardcut.tui.desk.column_looks import Looks
    from yardcut.tui.desk.figured_rows import Rows
    from yardcut.tui.desk.moment import Moment

_LINES = 6
_ROOM_FOR_TWO = 120
_FINE = Fraction(1, 10)


class BoundsCard(Card[Deed | None]):
    """Returns the line that was chosen. The lower bound moves first."""

    FOCUS = Focus.BOUNDS

    def __init__(self, moment: Moment, rows: Rows, column: ShownColumn, label: str, looks: Looks) -> None:
        super().__init__()
        self._moment, self._rows, self._column, self._label, self._looks = moment, rows, column, label, looks
        self._index = moment.cut.place_for(moment.selected, "keep")
        self._scale: Scale | None = None
        self._summary: Summary | None = None
        self._bounds: list[Fraction] = []
        self._moving = 0
        self._left: dict[str, int] = {}
        self._drawing, self._marks = Static("…", id="bounds-drawing"), Static("", id="bounds-marks")
        self._said = Static("", id="bounds-said")

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="bounds-card") as card:
            card.border_title = f"{fit(clean(self._column.name), 30).rstrip()} from … to …, {self._label}"
            yield self._drawing
            yield self._marks
            yield self._said
        yield self.footer()

    def on_mount(self) -> None:
        """Find the range behind the card."""

        def work(token: CancelToken, progress: Progress) -> tuple[Summary, object, object]:
            summary = self._looks.summary(self._rows, self._column, token, progress)
            frame = self._rows.frame
            runner, bits = self._moment.executor.runner.over(frame.table), frame.rows.bits
            least = runner.run(ExtremeRound(self._column.value, bits, largest=False), token)
            return summary, least, runner.run(ExtremeRound(self._column.value, bits, largest=True), token)

        self.jobs.start(Job.PROFILE, work, self._found, lambda error: self._say(str(error)))

    def _found(self, found: tuple[Summary, object, object]) -> None:
        self._summary, least, most = found
        if not isinstance(least, int | float) or not isinstance(most, int | float):
            self._say("no row here has a value of this column")
        elif not (math.isfinite(least) and math.isfinite(most)):
            self._say("its values go on to infinity: a condition is written with e")
        else:
            self._scale = Scale.over(self._column.kind, least, most)
            self._bounds = [self._scale.least, self._scale.most]
            self._moved()

    # what it shows

    def on_resize(self) -> None:
        """Draw to the new width."""
        super().on_resize()
        self._show()

    def _say(self, text: str) -> None:
        self._said.update(Content.styled(clean(text), "$warning"))

    def _show(self) -> None:
        scale, summary = self._scale, self._summary
        if scale is None or summary is None:
            return
        bins = summary.bins or (summary.present,)
        cells = 2 if self.size.width >= _ROOM_FOR_TWO else 1
        places = [scale.place(bound, len(bins)) for bound in self._bounds]
        self._drawing.update(Content("\n").join(histogram(bins, _LINES, (places[0], places[1]), cells)))
        line = [" "] * (len(bins) * cells)
        for number, place in enumerate(places):
            line[min(len(line) - 1, place * cells + number)] = "▲" if number == self._moving else "△"
        marks = Content.styled("".join(line), "$accent")
        self._marks.update(Content("\n").join([marks, scale_line(summary, len(line))]))
        written = [glance(scale.written(bound)) for bound in self._bounds]
        styles = ["bold $accent" if number == self._moving else "$dim" for number in (0, 1)]
        counts = self._counts(summary)
        heap = heap_said(summary)
        about = (f" · {heap}" if heap else "") + (" · the drawing is of a sample" if summary.estimated else "")
        self._said.update(
            Content.assemble(
                ("from ", "$dim"), (written[0], styles[0]), ("  to ", "$dim"), (written[1], styles[1]), "   ",
                (counts, "$would"), (about, "$dim"),
            )
        )  # fmt: skip

    def _counts(self, summary: Summary) -> str:
        if self.condition is None:
            return "nothing is restricted yet: ← → move the bound"
        rows = self._rows.frame.rows.count
        missing = f", {summary.missing:,} without a value" if summary.missing else ""
        keep, drop = (f"{self._left[deed]:,}" if deed in self._left else "…" for deed in ("keep", "drop"))
        return f"keep leaves {keep} of {rows:,}{missing} · drop leaves {drop}"

    @property
    def condition(self) -> str | None:
        """The condition the bounds make; ``None`` while both are at the ends."""
        scale = self._scale
        if scale is None:
            return None
        name, kind = name_text(self._column.name), self._column.kind
        low, high = (value_literal(kind, scale.written(bound)) for bound in self._bounds)
        has_low, has_high = self._bounds[0] > scale.least, self._bounds[1] < scale.most
        if has_low and has_high:
            return f"{name} BETWEEN {low} AND {high}"
        return f"{name} >= {low}" if has_low else f"{name} <= {high}" if has_high else None

    # moving

    def _moved(self) -> None:
        self._left = {}
        condition = self.condition
        self._show()
        if condition is None:
            self.jobs.stop(Job.PROFILE)
            return
        offers = [Offer(deed, self._index, f"{deed} {condition}") for deed in ("keep", "drop")]

        def work(token: CancelToken, progress: Progress) -> None:
            tell = lambda deed, left: self.jobs.tell(token, self._counted, (deed, left))  # noqa: E731
            count_offers(self._moment, offers, tell, token, progress)

        self.jobs.start(Job.PROFILE, work, failed=lambda error: self._say(str(error)))

    def _counted(self, found: tuple[str, int]) -> None:
        self._left[found[0]] = found[1]
        self._show()

    def _move(self, steps: Fraction) -> None:
        if self._scale is None:
            return
        self._set(self._scale.moved(self._bounds[self._moving], steps))

    def _set(self, value: Fraction) -> None:
        low, high = self._bounds
        self._bounds[self._moving] = min(value, high) if self._moving == 0 else max(value, low)
        self._moved()

    def _to_the_end(self, largest: bool) -> None:
        if self._scale is not None:
            self._set(self._scale.most if largest else self._scale.least)

    def _other(self) -> None:
        self._moving = 1 - self._moving
        self._show()

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "bounds-away": self.put_away,
            "bounds-down": lambda: self._move(Fraction(-1)),
            "bounds-up": lambda: self._move(Fraction(1)),
            "bounds-finely-down": lambda: self._move(-_FINE),
            "bounds-finely-up": lambda: self._move(_FINE),
            "bounds-first": lambda: self._to_the_end(False),
            "bounds-last": lambda: self._to_the_end(True),
            "bounds-other": self._other,
            "bounds-keep": lambda: self._do("keep"),
            "bounds-drop": lambda: self._do("drop"),
            "bounds-write": self._write,
            "bounds-values": lambda: self.dismiss(Deed(own="value list")),
        }

    def _do(self, deed: str) -> None:
        if self.condition is not None:
            self.dismiss(Deed(f"{deed} {self.condition}"))

    def _write(self) -> None:
        self.dismiss(Deed(f"keep {self.condition or name_text(self._column.name) + ' '}", begins=True))


def has_bounds(kind: Kind) -> bool:
    """Tell whether bounds can be moved over values of a kind."""
    return kind in (Kind.INTEGER, Kind.NUMBER, Kind.DATE, Kind.TIMESTAMP)
