"""A picture on the screen: bars with their labels, nudged, and saved as SVG or PDF."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import replace
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
from yardcut.tui.widgets.footer import Footer
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.pictures.bar_data import Bars

_MOST = 60
_NOTHING_TO_CHOOSE = "it has no column to choose"
_FILLS = ((SOLID, "$plank"), (SAW, "$dim"), ("▒", "$count"), ("░", "$accent"), ("▪", "$saw"), ("▫", "$none"))


class Subject(Protocol):
    """What the picture is of. It may change by keys; ``place`` is that of the chosen one of its ``names``.

    ``kind`` is how it is drawn, of the ``kinds`` it can be drawn as, where these are several.
    """

    place: int
    kind: str

    @property
    def kinds(self) -> tuple[str, ...]:
        """How it can be drawn, where there is a choice."""

    @property
    def choosing(self) -> str:
        """What is said before the name that was chosen."""

    @property
    def without(self) -> Collection[str]:
        """The actions of the card, by their ids, that do nothing to it as it was drawn last."""

    def bars(self, token: CancelToken) -> Bars:
        """Work the picture out. May take long. Raises ``YardcutError``."""

    def nudged(self, steps: int) -> str:
        """Make it of more or fewer bars; returns what to say."""

    def names(self) -> list[str]:
        """Return the columns it may be labelled by, or be of; none where there is nothing to choose."""


class PictureCard(Card[Deed | None]):
    """Draws a subject, under a ``title`` of somebody's own; ``keep`` is given the bars of now to be saved.

    ``turn`` turns the dial that the subject goes by, where there is one, and tells what it holds then.
    """

    FOCUS = Focus.PICTURE

    def __init__(
        self, subject: Subject, keep: Callable[[Bars], None], title: str = "",
        turn: Callable[[int], str] | None = None,
    ) -> None:  # fmt: skip
        super().__init__()
        self._turn_dial = turn
        self._subject, self._keep, self._title = subject, keep, title
        self._bars: Bars | None = None
        self._page = Vertical(classes="card", id="picture-card")
        self._drawn, self._said = Static("…"), Static("", id="picture-said")

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with self._page:
            with VerticalScroll(can_focus=False):
                yield self._drawn
            yield self._said
        yield self.footer(self._without)

    @property
    def _without(self) -> list[str]:
        """The actions that do nothing to the subject as it is drawn now."""
        kind, dial = [] if self._subject.kinds else ["picture-kind"], [] if self._turn_dial else ["picture-dial"]
        return [*self._subject.without, *kind, *dial]

    def on_mount(self) -> None:
        """Draw it."""
        self.draw_anew()

    def draw_anew(self) -> None:
        """Draw the subject as it is now."""
        self._bars = None

        def work(token: CancelToken, progress: Progress) -> Bars:
            bars = self._subject.bars(token)
            return replace(bars, title=self._title) if self._title else bars

        def failed(error: Exception) -> None:
            self._drawn.update("")
            self.say(str(error), "$warning")

        self.jobs.start(Job.PROFILE, work, self._show, failed)

    def _show(self, bars: Bars) -> None:
        self._bars = bars
        self.query_one(Footer).leave_out(self._without)
        self._page.border_title = glance(bars.title)
        self._drawn.update(picture_drawn(bars, max(30, min(112, self.size.width * 98 // 100) - 8)))

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

    def _turn_kind(self) -> None:
        """Draw it another way, where it has several."""
        subject = self._subject
        if not subject.kinds:
            self.say("it is drawn one way only")
            return
        subject.kind = subject.kinds[(subject.kinds.index(subject.kind) + 1) % len(subject.kinds)]
        self._changed(f"drawn as {subject.kind}")

    def _follow_dial(self, by: int) -> None:
        """Turn the dial, and draw the subject as it is then."""
        if self._turn_dial is None:
            self.say("no dial changes this picture")
        else:
            self._changed(self._turn_dial(by))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "picture-away": self.put_away,
            "picture-more": lambda: self._changed(self._subject.nudged(1)),
            "picture-fewer": lambda: self._changed(self._subject.nudged(-1)),
            "picture-turn": self._turn,
            "picture-choose": self._choose,
            "picture-kind": self._turn_kind,
            "picture-dial": lambda: self._follow_dial(1),
            "picture-dial-back": lambda: self._follow_dial(-1),
            "picture-title": lambda: self.dismiss(Deed(own="title picture")),
            "picture-save": self._save,
            **scroll_calls("picture", self.query_one(VerticalScroll)),
        }


Runs = list[tuple[str, str]]


def picture_drawn(bars: Bars, width: int) -> Content:
    """Draw a picture in cells."""
    room = max(4, min(32, width // 3))
    runs: Runs = []
    if len(bars.series) > 1:
        for number, each in enumerate(bars.series):
            fill, style = _FILLS[number % len(_FILLS)]
            runs.append((f"{fill * 2} {clean(each.name)}   ", style))
        runs.append(("\n", ""))
    runs += IN_CELLS[bars.kind](bars, width - room, room)
    if len(bars.labels) > _MOST:
        runs.append((f"and {len(bars.labels) - _MOST:,} more bars, which the file has", "$dim"))
    return Content.assemble(*runs)


def _scaled(bars: Bars, width: int, texts: int) -> tuple[int, float, int]:
    """Return the cells of the longest bar, what they stand for, and where zero is."""
    longest = max(4, min(48, width - texts))
    low, high = min(0.0, bars.least), max(0.0, bars.most)
    span = (high - low) or 1.0
    return longest, span, round(-low / span * longest)


def _stacked_in_cells(bars: Bars, width: int, room: int) -> Runs:
    longest, span, _ = _scaled(bars, width, len(bars.series) * _widest(bars) + 5)
    runs: Runs = []
    for place, label in enumerate(bars.labels[:_MOST]):
        runs.append((f"{fit(listed(label), room)} ", ""))
        for number, each in enumerate(bars.series):
            fill, style = _FILLS[number % len(_FILLS)]
            cells = max(round(each.values[place] / span * longest), 1 if each.values[place] else 0)
            runs.append((fill * cells, style))
        told = " · ".join(clean(each.texts[place]) for each in bars.series if each.texts[place])
        runs.append((f" {told}\n", "$count"))
    return runs


def _bars_in_cells(bars: Bars, width: int, room: int) -> Runs:
    """Draw bars below each other; a negative one leads to the left of the line at zero."""
    longest, span, zero = _scaled(bars, width, _widest(bars) + 2)
    runs: Runs = []
    for place, label in enumerate(bars.labels[:_MOST]):
        for number, series in enumerate(bars.series):
            fill, style = _FILLS[number % len(_FILLS)]
            value = series.values[place]
            cells = min(longest, abs(round(value / span * longest)))
            before = zero if value >= 0 else max(0, zero - cells)
            runs += [
                (f"{fit(listed(label), room)} " if number == 0 else " " * (room + 1), ""),
                (" " * before, ""),
                (fill * max(cells, 1 if value else 0), style),
                (f" {clean(series.texts[place])}\n", "$count"),
            ]
    return runs


def _line_in_cells(bars: Bars, width: int, room: int) -> Runs:
    """Draw a line turned on its side: a mark in each label's row, as far out as its value."""
    longest, span, zero = _scaled(bars, width, len(bars.series) * (_widest(bars) + 3))
    runs: Runs = []
    for place, label in enumerate(bars.labels[:_MOST]):
        at = {max(0, min(longest, zero + round(each.values[place] / span * longest))): number
              for number, each in enumerate(bars.series)}  # fmt: skip
        runs.append((f"{fit(listed(label), room)} ", ""))
        for cell in range(longest + 1):
            fill, style = _FILLS[at[cell] % len(_FILLS)] if cell in at else ("·" if cell == zero else " ", "$dim")
            runs.append((fill, style))
        runs.append((" " + " · ".join(clean(each.texts[place]) for each in bars.series) + "\n", "$count"))
    return runs


def _widest(bars: Bars) -> int:
    return max((len(text) for each in bars.series for text in each.texts), default=0)


IN_CELLS: dict[str, Callable[[Bars, int, int], Runs]] = {
    "bars": _bars_in_cells,
    "stacked": _stacked_in_cells,
    "line": _line_in_cells,
}
"""How each kind of picture is drawn on the screen: of a picture, the cells for it, and those for its labels."""
