"""What a picture can be of: the rows of a top or bottom, a column, a draw beside the whole."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import field, replace
from datetime import date
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.keys.keymap import key_of

if TYPE_CHECKING:
    from yardcut.core.language.meaning.bound import ShownColumn
    from yardcut.core.pictures.bar_data import Bars
    from yardcut.core.profile.balance import ColumnBalance
    from yardcut.core.progress import CancelToken
    from yardcut.core.run.executing.results import LineResult
    from yardcut.tui.desk.figured_rows import Rows
    from yardcut.tui.desk.moment import Moment

_MOST_COLUMNS = 60
_WITHOUT_NUMBER = ("picture-more", "picture-fewer")


def small_print(moment: Moment) -> str:
    """Say of which table, cut and day a picture is."""
    return f"{moment.spec.label} · {moment.cut.name or 'cut'} · {date.today().isoformat()}"


@dataclass
class TopSubject:
    """The rows of a top or bottom; the number is nudged on the list itself.

    ``labels`` are names of columns chosen before, the last first, of this or another top: the first that is there
    labels the bars. Without one it is the column that tells the rows apart.
    """

    now: Callable[[], Moment]
    index: int
    nudge: Callable[[int], str]
    labels: list[str] = field(default_factory=list)
    choosing: str = "labelled by "
    without: tuple[str, ...] = ()
    kind: str = ""
    kinds: tuple[str, ...] = ()

    def bars(self, token: CancelToken) -> Bars:
        """Draw the rows the line leaves."""
        from yardcut.core.run.looking.pictured import top_bars, top_value

        moment = self.now()
        results = list(moment.executor.run_bound(moment.lines[: self.index + 1], token))
        result = results[-1] if len(results) > self.index else None
        if result is None or top_value(result) is None:
            raise ListError("the line ranks by no number any more")
        if not result.shown:
            raise ListError("the line leaves no column")
        return replace(top_bars(result, result.shown[self._place_in(result)]), small_print=small_print(moment))

    def _place_in(self, result: LineResult) -> int:
        from yardcut.core.run.looking.pictured import telling_place

        names = [column.name for column in result.shown]
        chosen = next((name for name in self.labels if name in names), None)
        return telling_place(result) if chosen is None else names.index(chosen)

    @property
    def place(self) -> int:
        """The place of the column that labels the bars."""
        result = self.now().result_at(self.index)
        return 0 if result is None or not result.shown else self._place_in(result)

    @place.setter
    def place(self, place: int) -> None:
        names = self.names()
        if place < len(names):
            self.labels.insert(0, names[place])

    def nudged(self, steps: int) -> str:
        """Take more or fewer rows."""
        return self.nudge(steps)

    def names(self) -> list[str]:
        """Return the columns it may be labelled by."""
        return [column.name for column in self.now().lines[self.index].scope.shown]


@dataclass
class TallySubject:
    """What a tally came to, as the selected line leaves it at every moment: a dial that is turned is followed."""

    now: Callable[[], Moment]
    index: int
    place: int = 0
    choosing: str = "the numbers of "
    without: tuple[str, ...] = ()
    first: int = 40
    kind: str = "bars"
    kinds: tuple[str, ...] = ("bars", "stacked", "line")

    def bars(self, token: CancelToken) -> Bars:
        """Draw the first rows."""
        from yardcut.core.run.looking.pictured import tally_bars

        moment = self.now()
        results = list(moment.results[: self.index + 1])
        if len(results) <= self.index:
            results = list(moment.executor.run_bound(moment.asked[: self.index + 1], token))
        if len(results) <= self.index:
            raise ListError("the line is wrong by now")
        numbers = [column for column in results[-1].shown if column.kind.is_numeric]
        if not numbers:
            raise ListError("there is no number here to draw")
        column = numbers[self.place % len(numbers)]
        return replace(tally_bars(results, column, self.first, self.kind), small_print=small_print(moment))

    def nudged(self, steps: int) -> str:
        """Draw more or fewer rows."""
        self.first = max(1, self.first + steps)
        return f"the first {self.first:,} rows"

    def names(self) -> list[str]:
        """Return the numbers there are."""
        result = self.now().result_at(self.index)
        return [] if result is None else [column.name for column in result.shown if column.kind.is_numeric]


@dataclass
class ColumnSubject:
    """The values of a column among some rows; how much finer its bars are is kept for each column.

    What is turned is written by keys alone: a drawing that comes late changes none of it.
    """

    moment: Moment
    rows: Rows
    columns: tuple[ShownColumn, ...]
    place: int
    label: str
    choosing: str = ""
    kind: str = ""
    kinds: tuple[str, ...] = ()
    _finer: dict[int, int] = field(default_factory=dict)
    _ends: dict[int, tuple[int, int]] = field(default_factory=dict)

    @property
    def without(self) -> tuple[str, ...]:
        """What does nothing to it: of values that have a bar each there is no width to turn."""
        coarsest, finest = self._ends.get(self.place, (0, 0))
        return () if coarsest < finest else _WITHOUT_NUMBER

    def bars(self, token: CancelToken) -> Bars:
        """Draw how the values are distributed."""
        from yardcut.core.run.looking.distributions import distribution_bars

        place, runner = self.place, self.moment.executor.runner
        finer = self._finer.get(place, 0)
        found = distribution_bars(self.columns[place], self.rows.frame, self.label, runner, token, finer)
        self._ends[place] = found.coarsest, found.finest
        return replace(found.bars, small_print=small_print(self.moment))

    def nudged(self, steps: int) -> str:
        """Make the intervals narrower or wider."""
        coarsest, finest = self._ends.get(self.place, (0, 0))
        if coarsest == finest:
            return "each of its values has a bar, which no key makes wider"
        wanted = self._finer.get(self.place, 0) + steps
        if not coarsest <= wanted <= finest:
            return f"the bars are as {'narrow' if steps > 0 else 'wide'} as they get"
        self._finer[self.place] = wanted
        return "narrower bars" if steps > 0 else "wider bars"

    def names(self) -> list[str]:
        """Return the columns there are."""
        return [column.name for column in self.columns]


@dataclass
class BalanceSubject:
    """A draw beside the whole: at first by its groups, or by the column in which they differ most."""

    moment: Moment
    result: LineResult
    place: int = 0
    choosing: str = ""
    without: tuple[str, ...] = _WITHOUT_NUMBER
    kind: str = ""
    kinds: tuple[str, ...] = ()
    _found: list[ColumnBalance] = field(default_factory=list)

    def bars(self, token: CancelToken) -> Bars:
        """Draw the shares of a column in both."""
        from yardcut.core.language.verbs.draw_parts import BoundDraw
        from yardcut.core.profile.balance import column_balances
        from yardcut.core.run.looking.pictured import balance_bars

        result = self.result
        if not self._found:
            columns = result.before.columns[:_MOST_COLUMNS]
            body = result.line.bound.body if result.line.bound is not None else None
            groups = body.groups if isinstance(body, BoundDraw) else ()
            first = {column.name for column in columns if column.value in groups}
            runner = self.moment.executor.runner
            found = list(column_balances(columns, result.before, result.frame, runner, token))
            self._found = sorted(found, key=lambda each: (each.name not in first, -each.unevenness))
        if not self._found:
            raise ListError("no column has shares to be compared")
        name = self._found[self.place % len(self._found)].name
        return replace(balance_bars(self._found, name), small_print=small_print(self.moment))

    def nudged(self, steps: int) -> str:
        """The number is nudged on the card of the draw."""
        return f"{key_of('draw')} shows the draw, where its number is nudged"

    def names(self) -> list[str]:
        """Return the columns that have shares, the most uneven first."""
        return [each.name for each in self._found]


@dataclass
class PlankSubject:
    """The lines of the cut, with what each left and took."""

    moment: Moment
    place: int = 0
    choosing: str = ""
    without: tuple[str, ...] = (*_WITHOUT_NUMBER, "picture-turn", "picture-choose")
    kind: str = ""
    kinds: tuple[str, ...] = ()

    def bars(self, token: CancelToken) -> Bars:
        """Draw all lines."""
        from yardcut.core.run.looking.pictured import plank_bars

        moment = self.moment
        results = list(moment.executor.run_bound(moment.lines, token))
        if not results:
            raise ListError(f"there are no lines yet: {key_of('write')} writes one")
        title = f"{moment.cut.name or 'cut'}: what each line left and took"
        return replace(plank_bars(results, title), small_print=small_print(moment))

    def nudged(self, steps: int) -> str:
        """The numbers of lines are nudged on the list."""
        return "+ and - on the list nudge the number of a line"

    def names(self) -> list[str]:
        """There is no column to choose."""
        return []
