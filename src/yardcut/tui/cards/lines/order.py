"""The keys of an order as a sentence: moved, turned, added, taken out; what each of them decides."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.lines import statement_text
from yardcut.core.language.syntax.order_words import direction_of, key_in_words, ways_of
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax.printing import keys_text, side_text
from yardcut.core.language.turning.dials_made import key_dial
from yardcut.core.language.verbs.order import BoundOrder, Order
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.grouping.ties import Ties
from yardcut.core.run.hinting.order_hints import ties_of
from yardcut.core.values.kinds import Kind
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.lines.part_edits import PartEdits
from yardcut.tui.cards.lines.parts_page import PartsPage
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import clean, fit, glance
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.tui.desk.moment import Moment

_NAME, _DIRECTION, _MISSING, _TIED = 32, 26, 15, 14
_HEAD = f"   {'by':<{_NAME}}{'which first':<{_DIRECTION}}{'missing':<{_MISSING}}{'still tied':>{_TIED}}"


class OrderCard(Card[None]):
    """Shows the keys of one line as they are at every moment; each edit is one of the list at once."""

    FOCUS = Focus.ORDER

    def __init__(self, edits: PartEdits) -> None:
        super().__init__()
        self._edits = edits
        self._page = PartsPage[int](self, "order", edits, Order)
        self._followed = self._page.followed
        self._ties: Ties | None = None
        self._wanted = 0
        self._sentence = Static("", id="order-words")

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        yield from self._page.compose(self._sentence, Static(Content.styled(_HEAD, "$dim")))

    def on_mount(self) -> None:
        """Show the keys."""
        self.set_focus(self._page.list)
        self._show()

    # what it shows

    @property
    def _sort_keys(self) -> tuple[t.SortKey, ...]:
        body = self._followed.statement.body if self._followed.statement is not None else None
        return body.keys if isinstance(body, Order) else ()

    def show(self, moment: Moment) -> None:
        """Show the line as it is now; its ties come as soon as its rows are there."""
        self._say_so_far()
        if not self._page.follow(moment):
            return
        if self._followed.has_changed:
            self._ties = None
        if self.is_mounted:
            if self._page.is_free:
                self._wanted = self._page.list.highlighted or 0
            self._show()

    def _show(self) -> None:
        moment = self._followed.moment
        if moment is None:
            return
        kinds = self._kinds()
        said = [key_in_words(key, kind) for key, kind in zip(self._sort_keys, kinds, strict=True) if not key.off]
        words = "first by " + ";\nthen by ".join(map(clean, said)) if said else "as it stands: no key is on"
        self._sentence.update(Content.styled(words + "\n", "bold"))
        numbered = enumerate(zip(self._sort_keys, kinds, strict=True))
        self._page.list_parts("order", [self._line(place, key, kind) for place, (key, kind) in numbered], self._wanted)
        self._count_ties()

    def _count_ties(self) -> None:
        moment = self._followed.moment
        result = None if moment is None else moment.result_at(self._followed.index)
        if result is None or self._ties is not None or result.line.statement != self._followed.statement:
            return

        def work(token: CancelToken, progress: Progress) -> Ties | None:
            return ties_of(result, token)

        def counted(ties: Ties | None) -> None:
            self._ties = ties
            for place, (key, kind) in enumerate(zip(self._sort_keys, self._kinds(), strict=True)):
                self._page.list.replace_option_prompt_at_index(place, self._line(place, key, kind))

        self.jobs.start(Job.TREE, work, counted, lambda error: self.say(str(error), "$warning"))

    def _kinds(self) -> list[Kind]:
        """Return the kind of each key; that of a text where the line is wrong or the key off."""
        moment = self._followed.moment
        line = moment.lines[self._followed.index] if moment is not None else None
        body = line.bound.body if line is not None and line.bound is not None else None
        kinds = iter([key.named.kind for key in body.keys] if isinstance(body, BoundOrder) else ())
        return [Kind.TEXT if key.off else next(kinds, Kind.TEXT) for key in self._sort_keys]

    def _line(self, place: int, key: t.SortKey, kind: Kind) -> Content:
        on = [at for at, each in enumerate(self._sort_keys) if not each.off]
        tied, idle = "…", False
        if key.off:
            tied = "off"
        elif self._ties is not None and len(self._ties.rows) == len(on):
            tied = f"{self._ties.rows[on.index(place)]:,}"
            idle = on.index(place) in self._ties.idle
        number = str(on.index(place) + 1) if place in on else " "
        name = side_text(key.value) + (f" ({ways_of(key)})" if ways_of(key) else "")
        return Content.assemble(
            (f"{number:>2} ", "$accent"),
            (fit(glance(name), _NAME), "$dim strike" if key.off else "bold"),
            (fit(glance(direction_of(key, kind)), _DIRECTION - 1) + " ", ""),
            (f"{'first' if key.nulls_first else 'last':<{_MISSING}}", "$none"),
            (f"{tied:>{_TIED}}", "$count"),
            ("   ! never decides" if idle else "", "$warning"),
        )

    def say(self, text: str, style: str = "$would") -> None:
        """Say something below the parts."""
        self._page.say(text, style)

    # editing

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "order-turn": lambda: self._turn(lambda key: replace(key, descending=not key.descending)),
            "order-missing": lambda: self._turn(lambda key: replace(key, nulls_first=not key.nulls_first)),
            "order-case": lambda: self._turn(lambda key: replace(key, ignoring_case=not key.ignoring_case)),
            "order-numbers": lambda: self._turn(lambda key: replace(key, number_aware=not key.number_aware)),
            "order-off": lambda: self._turn(lambda key: replace(key, off=not key.off)),
            "order-up": lambda: self._move(-1),
            "order-down": lambda: self._move(1),
            "order-out": self._take_out,
            "order-dial": self._make_dial,
            "order-add": lambda: self._write(len(self._sort_keys), ""),
            "order-write": self._enter,
            **self._page.calls(),
        }

    @property
    def _place(self) -> int:
        return min(self._page.list.highlighted or 0, max(0, len(self._sort_keys) - 1))

    def _become(self, keys: tuple[t.SortKey, ...], place: int) -> None:
        """Have the line say other keys, one of them marked."""
        assert self._followed.statement is not None
        self._wanted = place
        text = statement_text(replace(self._followed.statement, body=Order(keys)))
        self.say(self._edits.rewrite(self._followed.index, text))

    def _turn(self, change: Callable[[t.SortKey], t.SortKey]) -> None:
        keys, place = self._sort_keys, self._place
        if keys:
            self._become((*keys[:place], change(keys[place]), *keys[place + 1 :]), place)
        else:
            self.say("there is no key here: a adds one", "$warning")

    def _move(self, by: int) -> None:
        keys, place = list(self._sort_keys), self._place
        if 0 <= place + by < len(keys):
            keys.insert(place + by, keys.pop(place))
            self._become(tuple(keys), place + by)

    def _take_out(self) -> None:
        keys, place = self._sort_keys, self._place
        if len(keys) < 2:
            self.say("an order has a key: Del on the list takes the line out", "$warning")
            return
        self._become((*keys[:place], *keys[place + 1 :]), place)

    def _make_dial(self) -> None:
        """Make a dial of the marked key's column."""
        keys, place, moment, statement = self._sort_keys, self._place, self._followed.moment, self._followed.statement
        if not keys or moment is None or statement is None:
            return
        try:
            key, dial = key_dial(keys[place], [dial.name for dial in moment.cut_list.dials])
        except ListError as error:
            self.say(error.message, "$warning")
            return
        self._wanted = place
        text = statement_text(replace(statement, body=Order((*keys[:place], key, *keys[place + 1 :]))))
        self.say(self._edits.put_dials(self._followed.index, text, (dial,)))

    # writing a key

    def _write(self, place: int, text: str) -> None:
        example = "a column, DESC, NULLS FIRST, IN SEQUENCE ('early', 'late')"
        self._page.write(place, text, f"{key_of('order-write')} puts it in its place: {example}")

    def _enter(self) -> None:
        """Write the marked key anew, or put in its place what is written."""
        if self._page.writing is None:
            if self._sort_keys:
                self._write(self._place, keys_text((self._sort_keys[self._place],)))
            return
        place, text = self._page.writing, self._page.field.text
        if not text:
            self._page.stop_writing()
            return
        try:
            body = parse_statement(f"order {text}").body
        except ListError as error:
            self.say(str(error), "$warning")
            return
        if not isinstance(body, Order) or not body.keys:
            self.say("a key is a column or something worked out of columns", "$warning")
            return
        keys = self._sort_keys
        self._page.stop_writing()
        self._become((*keys[:place], *body.keys, *keys[place + 1 :]), place)

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Write anew what was clicked."""
        self._enter()
