"""The values of a column with the rows of each: looked through, ticked, kept or dropped."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import Input, OptionList, Static

from yardcut.core.language.helping.pasted_values import pasted_values, resolved
from yardcut.core.language.helping.twins import make_alike, twins
from yardcut.core.language.helping.value_sets import value_literal
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.values.kinds import Kind
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls, place_again
from yardcut.tui.cards.columns.bounds import has_bounds
from yardcut.tui.clipboard import to_terminal
from yardcut.tui.desk.offering.deeds import Deed
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import MISSING, clean, fit, glance, listed, plural
from yardcut.tui.widgets.bar_cells import SOLID
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.profile.distinct import DistinctValues
    from yardcut.tui.desk.column_looks import Looks
    from yardcut.tui.desk.offering.value_list import ValueList

_MOST_SHOWN = 1_000
_VALUE_CELLS, _COUNT_CELLS, _BAR_CELLS = 34, 13, 24
_MOST_TWINS, _MOST_ARRANGED = 3, 200
_TICKED, _BARE = "[x] ", "[ ] "


class ValuesCard(Card[Deed | None]):
    """Returns the line that was chosen."""

    FOCUS = Focus.VALUES

    def __init__(self, about: ValueList, looks: Looks) -> None:
        super().__init__()
        self._about, self._looks = about, looks
        self._found: DistinctValues | None = None
        self._ticked: set[str | None] = set(about.ticked)
        self._shown: list[tuple[str | None, int]] = []
        self._twins: dict[str, str] = {}
        self._mend = self._total = self._listed_part = ""
        self._arranged: list[str] = []
        self._is_growing = False
        self._by_count = about.column.kind in (Kind.TEXT, Kind.BOOLEAN)
        self._field = Input(placeholder="/  part of a value", id="values-find", select_on_focus=False)

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="values-card") as card:
            column = self._about.column
            card.border_title = f"values of {fit(clean(column.name), 30).rstrip()}, {self._about.label}"
            yield self._field
            yield Static("…", id="values-said")
            yield OptionList()
            yield Static("", id="values-hint")
        yield self.footer(["values-mend", *([] if self._has_range else ["values-range"])])

    @property
    def _has_range(self) -> bool:
        return has_bounds(self._about.column.kind)

    def on_mount(self) -> None:
        """Count behind the card."""
        self.set_focus(self.query_one(OptionList))

        def work(token: CancelToken, progress: Progress) -> DistinctValues:
            first = self._looks.first_distinct(self._about.rows, self._about.column, token)
            if first is not None:
                self.jobs.tell(token, self._began, first)
            return self._looks.distinct(self._about.rows, self._about.column, token, progress)

        self.jobs.start(Job.PROFILE, work, self._counted, lambda error: self._say(str(error)))

    def _look_for_totals(self, found: DistinctValues) -> None:
        """See whether the rows of one value are totals of the others."""
        about = self._about
        if about.column.kind is not Kind.TEXT:
            return

        def work(token: CancelToken, progress: Progress) -> tuple[str, str] | None:
            return self._looks.total_among(about.rows, about.column, found, token)

        def told(total: tuple[str, str] | None) -> None:
            if total is not None:
                text, name = _as_written(total[0]), total[1]
                self._total = f"! {text} looks like totals: the sum of its {name} is about that of all others"
                self._say_hints()

        self.jobs.start(Job.HINTS, work, told)

    def _began(self, first: DistinctValues) -> None:
        """Show the values of the first rows while all are being counted."""
        self._found, self._is_growing = first, True
        self._show(keep_place=True)

    def _counted(self, found: DistinctValues) -> None:
        self._found, self._is_growing = found, False
        self._look_for_totals(found)
        if self._about.column.kind is Kind.TEXT:
            groups = twins(found.values)
            for group in groups:
                for text, _ in group:
                    others = [f"{_as_written(other)} {count:,}" for other, count in group if other != text]
                    self._twins[text] = ", ".join(others[:_MOST_TWINS])
            if groups:
                self._mend = make_alike(self._about.column.name, groups)
        self._show(keep_place=True)

    # what it shows

    def _show(self, keep_place: bool = False) -> None:
        found = self._found
        if found is None:
            return
        options = self.query_one(OptionList)
        stays = keep_place and self._field.value == self._listed_part
        before, place = [text for text, _ in self._shown], options.highlighted or 0
        self._listed_part = self._field.value
        part = self._listed_part.casefold()
        values: list[tuple[str | None, int]] = [pair for pair in found.values if part in pair[0].casefold()]
        if self._arranged:
            places = {text: place for place, text in enumerate(self._arranged)}
            values.sort(key=lambda pair: places.get(pair[0] or "", len(places)))
        elif self._by_count:
            values.sort(key=lambda pair: -pair[1])
        if found.missing and not part:
            values.append((None, found.missing))
        self._shown = values
        options.clear_options()
        options.add_options([self._line(pair) for pair in values[:_MOST_SHOWN]])
        if values:
            options.highlighted = place_again(before, place, [text for text, _ in values[:_MOST_SHOWN]]) if stays else 0
        self._say_counts()

    def _line(self, pair: tuple[str | None, int]) -> Content:
        text, count = pair
        largest = max((each for _, each in self._shown), default=1)
        bar = SOLID * max(1, round(count / max(1, largest) * _BAR_CELLS))
        twin = self._twins.get(text or "", "") if text is not None else ""
        return Content.assemble(
            (_TICKED if text in self._ticked else _BARE, "bold $accent" if text in self._ticked else "$dim"),
            (fit(MISSING if text is None else listed(text), _VALUE_CELLS), "$dim" if text is None else ""),
            (f"{count:>{_COUNT_CELLS},} ", "$count"),
            (fit(bar, _BAR_CELLS + 1), "$plank"),
            (f"! also {twin}" if twin else "", "$warning"),
        )

    def _say_counts(self) -> None:
        found = self._found
        if found is None:
            return
        said = plural(found.distinct, "value")
        if not found.is_whole:
            said += f", the commonest {len(found.values):,} listed"
        part = self._field.value
        if part:
            said += f" · {plural(len(self._shown), 'match').replace('matchs', 'matches')}"
        if len(self._shown) > _MOST_SHOWN:
            said += f", the first {_MOST_SHOWN:,} shown"
        if self._is_growing:
            said = f"so far, of the first {found.rows:,} of {self._about.rows.frame.rows.count:,} rows: {said}"
        if self._ticked:
            said += f" · {len(self._ticked):,} ticked{self._would_leave(found)}"
        self.query_one("#values-said", Static).update(Content.styled(said, "$would" if self._ticked else "$dim"))
        self._say_hints()

    def _say_hints(self) -> None:
        alike = (
            f"! some differ only in capitals or blanks; {key_of('values-mend')} makes them alike: {self._mend}"
            if self._mend
            else ""
        )
        self.query_one("#values-hint", Static).update(
            Content.styled("\n".join(clean(hint) for hint in (alike, self._total) if hint), "$warning")
        )

    def _would_leave(self, found: DistinctValues) -> str:
        """Say what keeping and dropping the ticked values leaves, where the rows of all of them are known."""
        if self._about.are_gone or self._is_growing:
            return ""
        counts: dict[str | None, int] = {**dict(found.values), None: found.missing}
        if not all(text in counts for text in self._ticked) and not found.is_whole:
            return ""
        kept = sum(counts.get(text, 0) for text in self._ticked)
        return f": keep leaves {kept:,} of {found.rows:,}, drop {found.rows - kept:,}"

    def _say(self, text: str) -> None:
        self.query_one("#values-hint", Static).update(Content.styled(clean(text), "$warning"))

    # keys

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        self._typed()  # whatever the key does is about what is typed now
        return {
            "values-away": self._away,
            "values-tick": self._tick,
            "values-keep": lambda: self._done("keep"),
            "values-drop": lambda: self._done("drop"),
            "values-find": lambda: self.set_focus(self._field),
            "values-all": lambda: self._when_counted(self._tick_all),
            "values-others": lambda: self._when_counted(self._tick_others),
            "values-sort": self._sort,
            "values-range": self._range,
            "values-mend": self._make_alike,
            "values-up": lambda: self._when_counted(lambda: self._arrange(-1)),
            "values-down": lambda: self._when_counted(lambda: self._arrange(1)),
            "values-order": lambda: self._when_counted(self._order_so),
            "values-copy": lambda: self._when_counted(self._copy),
            "values-save": lambda: self.dismiss(Deed(own="save values")),
            **choice_calls(self.query_one(OptionList)),
        }

    def take_text(self, text: str) -> bool:
        """Tick values that are pasted, a line each or in one line; a letter is part of one that is looked for."""
        if len(text) > 1 and (not self.takes_text or "\n" in text.strip()):
            self._when_counted(lambda: self._tick_pasted(text))
            return True
        return super().take_text(text)

    def _tick_pasted(self, text: str) -> None:
        """Tick the values that stand in a pasted text, and say what was put right and what is not here."""
        if self._found is None:
            return
        pasted = pasted_values(text, self._about.column.kind)
        found = resolved(pasted.values, [text for text, _ in self._found.values])
        # of values that are not all listed those that are not among them may be there all the same
        there = found.there if self._found.is_whole else (*found.there, *found.missing)
        self._ticked |= set(there)
        self._field.value = ""
        self.set_focus(self.query_one(OptionList))
        self._show()
        parts = [f"{plural(len(there), 'value')} ticked"]
        parts += [f"{found.respelled:,} spelled as they are here"] if found.respelled else []
        parts += [said] if (said := pasted.said()) else []
        if found.missing and self._found.is_whole:
            few = ", ".join(found.missing[:_MOST_TWINS])
            more = " …" if len(found.missing) > _MOST_TWINS else ""
            parts.append(f"{len(found.missing):,} not here: {few}{more}")
        self._say(" · ".join(parts))

    def _when_counted(self, call: Callable[[], None]) -> None:
        """Do what is about all values once all of them are listed."""
        if self._is_growing:
            self._say("the values are still being counted")
        else:
            call()

    def _away(self) -> None:
        if self.takes_text or self._field.value:
            self._field.value = ""
            self.set_focus(self.query_one(OptionList))
        else:
            self.put_away()

    @on(Input.Changed)
    def _typed(self) -> None:
        """List what is typed: once, though the next key may come before the field's own news."""
        if self._field.value != self._listed_part:
            self._show()

    @property
    def _marked(self) -> int | None:
        return self.query_one(OptionList).highlighted

    def _tick(self) -> None:
        place = self._marked
        if place is None:
            return
        self._ticked ^= {self._shown[place][0]}
        self.query_one(OptionList).replace_option_prompt_at_index(place, self._line(self._shown[place]))
        self._say_counts()

    def _tick_all(self) -> None:
        """Tick all that is found, or none of it when it is ticked already."""
        found = {text for text, _ in self._shown}
        self._ticked = self._ticked - found if found <= self._ticked else self._ticked | found
        self._show(keep_place=True)

    def _tick_others(self) -> None:
        self._ticked = {text for text, _ in self._shown} - self._ticked
        self._show(keep_place=True)

    def _arrange(self, by: int) -> None:
        """Move the marked value among the others: the sequence of now is one's own from then on."""
        place = self._marked
        if place is None or self._field.value:
            self._say("values are arranged while all of them are listed")
            return
        texts = [text for text, _ in self._shown if text is not None]
        to = place + by
        if not (0 <= place < len(texts) and 0 <= to < len(texts)):
            return
        texts.insert(to, texts.pop(place))
        self._arranged = texts
        self._show(keep_place=True)
        self.query_one(OptionList).highlighted = to
        self._say("o orders the rows in this sequence")

    def _order_so(self) -> None:
        """Order by the values in the sequence they are listed in."""
        if self._field.value or self._found is None:
            self._say("values are arranged while all of them are listed")
            return
        texts = self._arranged or [text for text, _ in self._shown if text is not None]
        if not texts or len(texts) > _MOST_ARRANGED:
            self._say(f"a sequence of one's own names {_MOST_ARRANGED} values at most")
            return
        column = self._about.column
        listed = ", ".join(value_literal(column.kind, text) for text in texts)
        self.dismiss(Deed(f"order {name_text(column.name)} IN SEQUENCE ({listed})"))

    def _copy(self) -> None:
        """Copy what is listed, with its rows, as a table of tabs; the terminal decides whether it takes it."""
        lines = [f"{text or ''}\t{count}" for text, count in self._shown[:_MOST_SHOWN]]
        took = to_terminal(self.app, "\n".join(lines))
        said = f"copied {plural(len(lines), 'value')} with their rows, where the terminal allows it"
        too_much = f"that is too much for the clipboard of a terminal: {key_of('values-save')} writes them to a file"
        self._say(said if took else too_much)

    def _sort(self) -> None:
        self._arranged = []
        self._by_count = not self._by_count
        self._show()

    def _done(self, verb: str) -> None:
        if self.takes_text:
            self.set_focus(self.query_one(OptionList))
            return
        if self._about.are_gone:
            self._say(f"these rows are off already: {key_of('offcut')} goes back to those that are left")
            return
        if self._found is None:
            return
        known = [text for text, _ in (*self._found.values, (None, 0)) if text in self._ticked]
        deed = self._about.deed(verb, [*known, *sorted(self._ticked - set(known), key=str)])
        if deed is None:
            self._say("nothing is ticked, which restricts nothing: Space ticks the marked value")
            return
        self.dismiss(deed)

    def _make_alike(self) -> None:
        if self._mend:
            self.dismiss(Deed(self._mend))

    def _range(self) -> None:
        if self._has_range and not self._about.are_gone:
            self.dismiss(Deed(own="bounds"))
        else:
            self._say("from and to are for numbers and days")

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Tick what was clicked."""
        self._tick()


def _as_written(text: str) -> str:
    return f"'{glance(text)}'" if text != text.strip() else glance(text)
