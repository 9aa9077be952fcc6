"""Binding all lines of a cut against a table, before anything runs."""

from __future__ import annotations

import datetime
import hashlib
from collections.abc import Callable, Sequence
from dataclasses import field, replace
from functools import partial
from typing import Any

from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError, Mend, NotReadYetError
from yardcut.core.expressions.frame import source_scope
from yardcut.core.language.lines import bind, with_seed
from yardcut.core.language.meaning.binder import Bound
from yardcut.core.language.meaning.dials_put_in import DialSetting
from yardcut.core.language.meaning.fixed import Earlier, Fixed, no_earlier
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax_trees import Statement
from yardcut.core.language.verbs.all_verbs import VERBS
from yardcut.core.language.verbs.verb import Verb
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.further_sources import FurtherSources
from yardcut.core.table.stored_table import Table
from yardcut.core.values.formatting import quote_name
from yardcut.core.values.temporal import EPOCH

NO_MORE = FurtherSources()


@dataclass(frozen=True, slots=True)
class BoundLine:
    """A line of a cut, bound: what it does, and the columns it leaves.

    ``bound`` is ``None`` when it is off or wrong, and ``error`` says what is wrong; ``statement`` is ``None`` when not
    even its text can be read. Where only the rows tell which columns there are, ``later`` binds it to them.
    """

    line: Line
    statement: Statement | None
    bound: Bound | None
    scope: Scope
    error: ListError | None = None
    later: Callable[[Scope], BoundLine] | None = field(default=None, compare=False, repr=False)

    @property
    def off(self) -> bool:
        """True when it is switched off."""
        return self.statement is not None and self.statement.off

    @property
    def verb(self) -> Verb | None:
        """Its verb."""
        return None if self.statement is None else VERBS[self.statement.verb]


def day_of_now() -> int:
    """Return today as days since 1970-01-01, by the clock and zone of this machine."""
    return datetime.date.today().toordinal() - EPOCH


def bind_line(
    text: str, scope: Scope, *, default_seed: int | None = None, today: int | None = None, is_first: bool = False,
    earlier: Earlier = no_earlier,
) -> Bound | None:  # fmt: skip
    """Parse and bind one line; ``None`` when it is off. Raises ``ListError`` with a mend for the whole line.

    ``default_seed`` is used by lines that go by chance and name none; ``today`` is CURRENT_DATE, now by default.
    ``earlier`` gives the cuts that stand above in the list.
    """
    statement = parse_statement(text)
    fixed = Fixed(day_of_now() if today is None else today, is_first=is_first, earlier=earlier)
    return None if statement.off else _bind(statement, text, scope, default_seed, fixed)


def _bind(statement: Statement, text: str, scope: Scope, default_seed: int | None, fixed: Fixed) -> Bound:
    if default_seed is not None:
        statement = with_seed(statement, default_seed)
    return bind(statement, text, scope, fixed)


def bind_cut(
    cut: Cut,
    table: Table,
    *,
    default_seed: int | None = None,
    today: int | None = None,
    earlier: Sequence[Cut] = (),
    dials: tuple[DialSetting, ...] = (),
    further: FurtherSources = NO_MORE,
) -> list[BoundLine]:
    """Bind the lines of a cut one after the other; a wrong line passes on the columns it was given.

    ``earlier`` are the cuts that stand above it in the list, which it may begin with; ``dials`` are the list's, and
    ``further`` its second tables.
    """
    today = day_of_now() if today is None else today
    given = earlier_cuts(earlier, table, default_seed=default_seed, today=today, dials=dials, further=further)
    scope = first_scope(table, dials, replace(further, earlier=given, cuts=tuple(each.name for each in earlier)))
    found: list[BoundLine] = []
    for number, line in enumerate(cut.lines):
        fixed = Fixed(today, line_number(len(earlier), number), number == 0, given)
        bound = _bound_line(line, scope, default_seed, fixed)
        found.append(bound)
        scope = bound.scope
    return found


def _bound_line(line: Line, scope: Scope, default_seed: int | None, fixed: Fixed) -> BoundLine:
    """Bind one line to the columns above it, or where they are not known yet prepare that."""
    statement, bound = None, None
    try:
        statement = line.statement()
        if not statement.off and not scope.open:
            bound = _bind(statement, line.text, scope, default_seed, fixed)
    except ListError as error:
        return BoundLine(line, statement, None, scope, error)
    later = partial(_bound_line, line, default_seed=default_seed, fixed=fixed) if scope.open else None
    return BoundLine(line, statement, bound, scope if bound is None else bound.scope, later=later)


_LINES_A_CUT = 1 << 20


def line_number(cut: int, line: int) -> int:
    """Return the number a line of a cut is told from all others of the list by."""
    return cut * _LINES_A_CUT + line


def first_scope(table: Table, dials: tuple[DialSetting, ...], further: FurtherSources = NO_MORE) -> Scope:
    """Return what the first line of a cut can name."""
    return replace(source_scope(table), dials=dials, further=further)


def earlier_cuts(
    cuts: Sequence[Cut],
    table: Table,
    *,
    default_seed: int | None = None,
    today: int | None = None,
    dials: tuple[DialSetting, ...] = (),
    further: FurtherSources = NO_MORE,
) -> Earlier:
    """Return what gives each of some cuts, bound, by its name."""

    def given(name: str) -> tuple[str, tuple[Any, ...], Scope]:
        index = next((index for index, cut in enumerate(cuts) if cut.name == name), None)
        if index is None:
            names = ", ".join(quote_name(cut.name) for cut in cuts)
            mend = Mend(f"the cuts above are {names}" if names else "this is the first cut of the list")
            raise ListError(f"there is no earlier cut {quote_name(name)}", mend=mend)
        lines = bind_cut(
            cuts[index], table, default_seed=default_seed, today=today, earlier=cuts[:index], dials=dials,
            further=further,
        )  # fmt: skip
        wrong = next((line.error for line in lines if line.error is not None), None)
        if isinstance(wrong, NotReadYetError):
            raise wrong
        if wrong is not None:
            raise ListError(f"a line of the cut {quote_name(name)} is wrong: {wrong.message}")
        bodies = repr([line.bound.body for line in lines if line.bound is not None])
        mark = hashlib.blake2b(bodies.encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()
        return mark, tuple(lines), lines[-1].scope if lines else first_scope(table, dials, further)

    return given
