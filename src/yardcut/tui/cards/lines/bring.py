"""Columns brought from a second table: the keys that are likely, what each would find, and the columns there."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.containers import Horizontal, Vertical
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.errors import YardcutError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping.bring_lines import (
    latest,
    pair,
    turned_match,
    turned_only,
    with_column,
    with_key,
    with_latest,
)  # fmt: skip
from yardcut.core.language.verbs.bring_parts import Bring, bring_text
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.second_values import DoubledKeysError
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.desk.offering.deeds import Deed
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import clean, clean_lines, fit, glance, plural
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.run.executing.looked_up import LookedUp
    from yardcut.core.run.looking.key_proposals import KeyProposal

_NAME, _KIND, _TICK, _SHARES, _TWICE = 22, 10, 3, 13, 6
_LEAST, _WIDE = 8, 50
TICKED, OPEN = "▣", "▢"


@dataclass(frozen=True, slots=True)
class ThereColumn:
    """A column of the second table, with some of its values."""

    name: str
    kind: str
    samples: str


@dataclass(frozen=True, slots=True)
class Tried:
    """What a bring line would do: what it finds, and the rows it leaves; ``error`` where it cannot be so."""

    looked: LookedUp | None = None
    rows: int = 0
    error: YardcutError | None = None


class BringCard(Card[Deed | None]):
    """Returns the line, for the place it was opened for."""

    FOCUS = Focus.BRING

    def __init__(
        self, body: Bring, index: int, instead: bool, columns: Sequence[ThereColumn], proposals: Sequence[KeyProposal],
        taken: Sequence[str], try_line: Callable[[str, CancelToken, Progress], Tried],
        show_apart: Callable[[LookedUp], None],
    ) -> None:  # fmt: skip
        super().__init__()
        self._body, self._index, self._instead = body, index, instead
        self._columns, self._proposals, self._taken = columns, proposals, taken
        self._try, self._show_apart = try_line, show_apart
        self._tried: Tried | None = None
        self._found, self._line = Static("", id="bring-found"), Static("", id="bring-line")
        self._keys, self._there = OptionList(), OptionList()

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="bring-card") as card:
            card.border_title = f"bring columns: line {self._index + 1}"
            yield self._found
            with Horizontal(id="bring-lists"):
                with Vertical():
                    yield Static(Content.styled("ours = theirs: found, met", "$dim"))
                    yield self._keys
                with Vertical():
                    yield Static(Content.styled("columns there", "$dim"))
                    yield self._there
            yield self._line
        yield self.footer()

    def on_mount(self) -> None:
        """Show what is likely, and what it would find."""
        self._list()
        self._keys.highlighted = self._there.highlighted = 0
        self.set_focus(self._keys)
        self._try_it()
        self.after_refresh(self._list)  # there is so much room now

    @property
    def line(self) -> str:
        """The line as it is put together."""
        return f"bring {bring_text(self._body)}"

    # what it shows

    def _list(self) -> None:
        """Show both lists anew; what is marked stays marked."""
        for options, lines in (
            (self._keys, [self._key_line(each) for each in self._proposals]),
            (self._there, [self._column_line(each) for each in self._columns]),
        ):
            marked = options.highlighted
            options.clear_options()
            options.add_options(lines or [Content.styled("none is likely: write the line by hand", "$dim")])
            options.highlighted = marked
        self._line.update(Content.styled(clean(self.line), "bold"))

    def _key_line(self, each: KeyProposal) -> Content:
        if each.is_latest:
            ticked, said = self._body.latest == latest(each.ours, each.theirs), f"latest {each.theirs} <= {each.ours}"
        else:
            ticked, said = pair(each.ours, each.theirs) in self._body.keys, f"{each.ours} = {each.theirs}"
        about = "" if each.is_whole else "~"
        is_wide = self._room(self._keys) >= _WIDE
        doubled = " twice" if each.doubled and is_wide else ""
        shares = f" {about + format(each.found, '.0%'):>5} {about + format(each.met, '.0%'):>5}{doubled}"
        room = max(_LEAST, self._room(self._keys) - _TICK - _SHARES - _TWICE * is_wide)
        return Content.assemble(
            (f" {TICKED if ticked else OPEN} ", "$accent" if ticked else "$dim"),
            (fit(glance(said), room), "bold" if ticked else ""),
            (shares, "$count"),
        )

    @staticmethod
    def _room(options: OptionList) -> int:
        """Return the cells of a line of choices; what it likely is before it was laid out."""
        return (options.size.width or 60) - 2

    def _column_line(self, each: ThereColumn) -> Content:
        item = next((item for item in self._body.items if item.column == t.Name(each.name)), None)
        is_key = any(isinstance(key.theirs or key.ours, t.Name) and (key.theirs or key.ours) == t.Name(each.name)
                     for key in self._body.keys)  # fmt: skip
        whole = self._room(self._there)
        width = _NAME if whole >= _WIDE else max(_LEAST, whole - _TICK - _KIND)
        room = whole - _TICK - width - _KIND - 1
        named = f"{each.name} as {item.name}" if item is not None and item.name else each.name
        return Content.assemble(
            (f" {TICKED if item is not None else OPEN} ", "$accent" if item is not None else "$dim"),
            (fit(glance(named), width), "bold" if item is not None else ""),
            (f" {each.kind:<{_KIND}}", "$dim"),
            (fit("the key" if is_key else glance(each.samples), max(0, room)), "$dim"),
        )

    def _try_it(self) -> None:
        """Work out what the line would find."""
        if not self._body.keys or not self._body.items:
            self.jobs.stop(Job.TRY)
            self._tried = None
            what = "a key" if not self._body.keys else "a column"
            self._found.update(Content.styled(f"tick {what} with {key_of('bring-tick')}", "$warning"))
            return
        line = self.line
        self._found.update(Content.styled("…", "$dim"))
        self.jobs.start(Job.TRY, lambda token, progress: self._try(line, token, progress), self._show, self._failed)

    def _failed(self, error: YardcutError) -> None:
        self._show(Tried(error=error))

    def _show(self, tried: Tried) -> None:
        self._tried = tried
        looked = tried.looked
        if looked is None:
            has_latest = any(each.is_latest for each in self._proposals)
            self._found.update(Content.styled(clean_lines(_wrong(tried, has_latest)), "$warning"))
            return
        said: list[tuple[str, str]] = [
            (f"{plural(looked.matched, 'row')} with a match", "bold"),
            (f" · {looked.unmatched:,} without", "$warning" if looked.unmatched else "$dim"),
            (f" · {looked.without:,} with no value to look for" if looked.without else "", "$dim"),
            (f" · {looked.several:,} with several" if looked.several else "", "$warning"),
            (f"   leaves {tried.rows:,}\n", "$count"),
            (f"{looked.keys - len(looked.not_met):,} of {plural(looked.keys, 'key')} there are met", "$dim"),
            (f", {plural(len(looked.not_met), 'key')} nobody has here" if len(looked.not_met) else "", "$dim"),
            (f" · {plural(looked.twice, 'key')} there several times" if looked.twice else "", "$dim"),
        ]
        self._found.update(Content.assemble(*said))

    # what the keys do

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        keys, there = self._keys, self._there
        return {
            "bring-away": self.put_away,
            "bring-switch": lambda: self.set_focus(there if self.focused is keys else keys),
            "bring-tick": self._tick,
            "bring-only": lambda: self._become(turned_only(self._body)),
            "bring-match": lambda: self._become(turned_match(self._body)),
            "bring-apart": self._apart,
            "bring-write": lambda: self._done(begins=True),
            "bring-enter": lambda: self._done(begins=False),
            **choice_calls(there if self.focused is there else keys),
        }

    def _become(self, body: Bring) -> None:
        self._body = body
        self._list()
        self._try_it()

    def _tick(self) -> None:
        """Take what is marked, or leave it."""
        if self.focused is self._there:
            place = self._there.highlighted or 0
            if place < len(self._columns):
                self._become(with_column(self._body, self._columns[place].name, self._taken))
            return
        place = self._keys.highlighted or 0
        if place < len(self._proposals):
            each = self._proposals[place]
            self._become((with_latest if each.is_latest else with_key)(self._body, each.ours, each.theirs))

    def _apart(self) -> None:
        if self._tried is not None and self._tried.looked is not None:
            self._show_apart(self._tried.looked)

    def _done(self, *, begins: bool) -> None:
        if not self._body.keys or not self._body.items:
            return
        if not begins and (self._tried is None or self._tried.error is not None):
            return  # what is wrong with it stands above
        self.dismiss(Deed(self.line, self._index if self._instead else None, begins=begins))

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Tick what was clicked."""
        self.set_focus(event.option_list)
        self._tick()


def _wrong(tried: Tried, has_latest: bool) -> str:
    """Say what is wrong, and which key here does what would put it right."""
    if isinstance(tried.error, DoubledKeysError) and tried.error.mend is not None:
        nearest = f"; {key_of('bring-tick')} on one with latest takes the nearest earlier row" if has_latest else ""
        return f"{tried.error.message}\n{key_of('bring-match')}: {tried.error.mend.says}{nearest}"
    return str(tried.error or "")
