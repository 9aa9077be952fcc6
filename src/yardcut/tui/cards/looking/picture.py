"""A picture on the screen: bars with their labels, nudged, and saved as SVG or PDF."""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import TYPE_CHECKING, Protocol

from textual.app import ComposeResult
from textual.containers import Vertical, VerticalScroll
from textual.content import Content
from textual.widgets import Static

from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import scroll_calls
from yardcut.tui.desk.offering.deeds import Deed
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, fit, glance, listed
from yardcut.tui.widgets.bar_cells import SAW, SOLID
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.pictures.bar_data import Bars

_MOST = 60
_NOTHING_TO_CHOOSE = "it has no column to choose"
_FILLS = ((SOLID, "$plank"), (SAW, "$dim"))


class Subject(Protocol):
    """What the picture is of. It may change by keys; ``place`` is that of the chosen one of its ``names``."""

    place: int

    @property
    def choosing(self) -> str:
        """What is said before the name that was chosen."""

    @property
    def without(self) -> Collection[str]:
        """The actions of the card, by their ids, that do nothing to it."""

    def bars(self, token: CancelToken) -> Bars:
        """Work the picture out. May take long. Raises ``YardcutError``."""

    def nudged(self, steps: int) -> str:
        """Make it of more or fewer rows; returns what to say."""

    def names(self) -> list[str]:
        """Return the columns it may be labelled by, or be of; none where there is nothing to choose."""


class PictureCard(Card[Deed | None]):
    """Draws a subject; ``keep`` is given the bars of now to be saved."""

    FOCUS = Focus.PICTURE

    def __init__(self, subject: Subject, keep: Callable[[Bars], None]) -> None:
        super().__init__()
        self._subject, self._keep = subject, keep
        self._bars: Bars | None = None
        self._page = Vertical(classes="card", id="picture-card")
        self._drawn, self._said = Static("…"), Static("", id="picture-said")

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with self._page:
            with VerticalScroll(can_focus=False):
                yield self._drawn
            yield self._said
            yield self.keys_line(self._subject.without)

    def on_mount(self) -> None:
        """Draw it."""
        self.draw_anew()

    def draw_anew(self) -> None:
        """Draw the subject as it is now."""
        self._bars = None

        def work(token: CancelToken, progress: Progress) -> Bars:
            return self._subject.bars(token)

        def failed(error: Exception) -> None:
            self._drawn.update("")
            self.say(str(error), "$warning")

        self.jobs.start(Job.PROFILE, work, self._show, failed)

    def _show(self, bars: Bars) -> None:
        self._bars = bars
        self._page.border_title = glance(bars.title)
        self._drawn.update(bars_drawn(bars, max(30, min(112, self.size.width * 98 // 100) - 8)))

    def say(self, text: str, style: str = "$would") -> None:
        """Say something below."""
        self._said.update(Content.styled(clean(text), style))

    def _changed(self, said: str) -> None:
        self.say(said)
        self.draw_anew()

    def _save(self) -> None:
        if self._bars is None:
            self.say("the picture is still being drawn")
            return
        self._keep(self._bars)
        self.dismiss(Deed(own="save picture"))

    def _turn(self) -> None:
        names = self._subject.names()
        if not names:
            self.say(_NOTHING_TO_CHOOSE)
            return
        self._subject.place = (self._subject.place + 1) % len(names)
        self._changed(f"{self._subject.choosing}{names[self._subject.place]}")

    def _choose(self) -> None:
        if self._subject.names():
            self.dismiss(Deed(own="choose picture column"))
        else:
            self.say(_NOTHING_TO_CHOOSE)

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "picture-away": self.put_away,
            "picture-more": lambda: self._changed(self._subject.nudged(1)),
            "picture-fewer": lambda: self._changed(self._subject.nudged(-1)),
            "picture-turn": self._turn,
            "picture-choose": self._choose,
            "picture-save": self._save,
            **scroll_calls("picture", self.query_one(VerticalScroll)),
        }


def bars_drawn(bars: Bars, width: int) -> Content:
    """Draw bars in cells; a negative one leads to the left of the line at zero."""
    room = max(4, min(32, width // 3))
    widest = max((len(text) for each in bars.series for text in each.texts), default=0)
    longest = max(4, min(48, width - room - (2 * widest + 5 if bars.stacked else widest + 2)))
    low, high = min(0.0, bars.least), max(0.0, bars.most)
    span = (high - low) or 1.0
    zero = round(-low / span * longest)
    runs: list[tuple[str, str]] = []
    if len(bars.series) > 1:
        runs = [
            (f"{_FILLS[n % 2][0] * 2} {clean(each.name)}   ", _FILLS[n % 2][1]) for n, each in enumerate(bars.series)
        ]
        runs.append(("\n", ""))
    for place, label in enumerate(bars.labels[:_MOST]):
        shown = f"{fit(listed(label), room)} "
        if bars.stacked:
            runs.append((shown, ""))
            runs += [
                (fill * max(round(each.values[place] / span * longest), 1 if each.values[place] else 0), style)
                for each, (fill, style) in zip(bars.series, _FILLS, strict=False)
            ]
            told = " · ".join(clean(each.texts[place]) for each in bars.series if each.texts[place])
            runs.append((f" {told}\n", "$count"))
            continue
        for number, series in enumerate(bars.series):
            fill, style = _FILLS[number % 2]
            value = series.values[place]
            cells = min(longest, abs(round(value / span * longest)))
            before = zero if value >= 0 else max(0, zero - cells)
            runs += [
                (shown if number == 0 else " " * (room + 1), ""),
                (" " * before, ""),
                (fill * max(cells, 1 if value else 0), style),
                (f" {clean(series.texts[place])}\n", "$count"),
            ]
    if len(bars.labels) > _MOST:
        runs.append((f"and {len(bars.labels) - _MOST:,} more bars, which the file has", "$dim"))
    return Content.assemble(*runs)
