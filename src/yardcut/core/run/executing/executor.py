"""Running a cut line by line. Each line has a fingerprint of itself and all above it; only what changed runs again."""

from __future__ import annotations

import hashlib
from collections.abc import Hashable, Iterator, Sequence
from dataclasses import replace
from typing import Any

from yardcut.core.cached import Kept
from yardcut.core.cutlist.model import Cut
from yardcut.core.errors import ListError
from yardcut.core.expressions.frame import Frame, source_fingerprint, source_frame
from yardcut.core.language.meaning.binder import Binder, Bound
from yardcut.core.language.meaning.bound import BoundBody, BoundCondition, BoundValue
from yardcut.core.language.meaning.bound_second import OtherRows
from yardcut.core.language.meaning.dials_put_in import DialSetting, put_in_condition, put_in_value
from yardcut.core.language.meaning.fixed import Fixed
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax_trees import Expression
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.language.verbs.from_cut import BoundFrom
from yardcut.core.language.verbs.order import BoundOrder
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.drawing.ranked import KnownRanks
from yardcut.core.run.executing.bound_lines import NO_MORE, BoundLine, bind_cut, day_of_now
from yardcut.core.run.executing.further_sources import FurtherSources
from yardcut.core.run.executing.looked_up import Settled
from yardcut.core.run.executing.pieces import PieceCache
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.executing.second_values import DoubledKeysError, SecondValues
from yardcut.core.run.executing.whole_values import Resolver, WholeValues
from yardcut.core.run.executing.works.work import Tools, Worked
from yardcut.core.run.executing.works.works_of_lines import WORKS
from yardcut.core.run.explaining.passed_over import take_first, taken_next
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.rowset import RowSet
from yardcut.core.tallying.row_groups import RowGroups

_LIMIT_BYTES = 160 << 20
_MOST_NOTED = 4096


class Executor:
    """Runs cuts of one source and keeps the results of their lines under a limit of memory."""

    def __init__(self, runner: Runner, limit_bytes: int = _LIMIT_BYTES) -> None:
        self.runner = runner
        self.pieces = PieceCache(runner)
        self._ranks = KnownRanks()
        self._wholes = WholeValues()
        self._groups: Kept[Hashable, RowGroups] = Kept(_LIMIT_BYTES, lambda groups: groups.size_bytes)
        self._seconds = SecondValues()
        self.noted: Kept[Hashable, Any] = Kept(_MOST_NOTED)
        """What else was found out about lines, by a name of its kind and what tells line and rows from others."""
        self._worked: Kept[str, Worked] = Kept(limit_bytes, lambda worked: worked.size_bytes)

    def run(
        self,
        cut: Cut,
        token: CancelToken | None = None,
        progress: Progress | None = None,
        *,
        default_seed: int | None = None,
        today: int | None = None,
        earlier: Sequence[Cut] = (),
        dials: tuple[DialSetting, ...] = (),
        further: FurtherSources = NO_MORE,
    ) -> Iterator[LineResult]:
        """Yield the result of each line as soon as it is there. Nobody looks at the rows between the lines.

        A line that is wrong ends the run: what stands below it has no result. Raises ``StoppedError``.
        """
        lines = bind_cut(
            cut, self.runner.table, default_seed=default_seed, today=today, earlier=earlier, dials=dials,
            further=further,
        )  # fmt: skip
        return self.run_bound(lines, token, progress, looked_at=False)

    def run_bound(
        self, lines: Sequence[BoundLine], token: CancelToken | None = None, progress: Progress | None = None, *,
        within: Resolver | None = None, looked_at: bool = True,
    ) -> Iterator[LineResult]:  # fmt: skip
        """Yield the results of lines that are bound already; ``within`` a run that begins with them.

        An order not ``looked_at``, of which the next line takes the first rows, leaves its rows as they are.
        """
        resolver = within or Resolver(self._wholes)
        tools = self._tools(token or CancelToken(), progress, resolver)
        frame = source_frame(self.runner.table)
        before = source_fingerprint(frame.table)
        mark = hashlib.blake2b(before.encode(), digest_size=16)
        lines, passed_over, scope = list(lines), None, None
        for index, unresolved in enumerate(lines):
            tools.token.check()
            tools = tools.over(frame.table)
            if unresolved.error is not None:
                return
            line = _resolved(resolver, _bound_now(unresolved, scope), frame, before, tools)
            body = line.bound.body if line.bound is not None else None
            if isinstance(body, BoundFrom):
                worked = self._other_cut(body, frame, mark, tools, resolver)
                line = resolver.line(line, frame, before, tools)  # its columns have what was worked out there
            elif not looked_at and (count := taken_next(lines, index, frame.rows)) is not None:
                assert isinstance(body, BoundOrder)
                worked, passed_over = Worked(frame.rows), (body, count)
                mark.update(repr(body).encode("utf-8", "surrogatepass"))
            elif passed_over is not None and isinstance(body, BoundDraw):
                worked, passed_over = take_first(*passed_over, frame.rows, tools), None
                mark.update(repr(body).encode("utf-8", "surrogatepass"))
            else:
                worked = self._line(line, frame, mark, tools)
            line = _with_found(line, worked, resolver)
            scope = line.scope
            after = Frame(worked.table or frame.table, worked.rows, line.scope.shown)
            fingerprint = mark.hexdigest() if worked.rows is not frame.rows else before
            looked_up = resolver.looked_up(line, frame.rows, tools)
            yield LineResult(line, frame, after, worked, fingerprint, before, looked_up)
            frame, before = after, fingerprint

    def condition(self, node: Expression, result: LineResult, token: CancelToken) -> BoundCondition | None:
        """Bind a condition to the rows and columns that reached a line, values of all rows put in their places.

        ``None`` when every piece of it is off. Raises ``ListError`` and ``StoppedError``.
        """
        scope = result.line.scope
        condition = Binder(scope, "", Fixed(day_of_now())).condition(put_in_condition(node, scope.dials))
        if condition is None:
            return None
        line = replace(result.line, bound=Bound(BoundFilter(condition, False), scope))
        resolver = Resolver(self._wholes)
        tools = self._tools(token, None, resolver).over(result.before.table)
        resolved = resolver.line(line, result.before, result.before_fingerprint, tools)
        assert resolved.bound is not None
        assert isinstance(resolved.bound.body, BoundFilter)
        return resolved.bound.body.condition

    def put_together(self, body: BoundBody, result: LineResult, token: CancelToken) -> Frame:
        """Return what another tally makes of the rows that reached a line. Raises ``StoppedError``."""
        tools = self._tools(token, None, Resolver(self._wholes)).over(result.before.table)
        run = WORKS[type(body)].run
        assert run is not None
        worked = run(body, result.before, tools)
        assert worked.table is not None
        return replace(source_frame(worked.table), rows=worked.rows)

    def rows_of(self, other: OtherRows, token: CancelToken, progress: Progress | None = None) -> Frame:
        """Return the rows of a second table; those of a cut by running it. Raises ``ListError``, ``StoppedError``."""
        rows_of = self._tools(token, progress, Resolver(self._wholes)).rows_of
        assert rows_of is not None
        return rows_of(other)[0]

    def value(self, node: Expression, result: LineResult) -> BoundValue:
        """Bind a value to the columns that reached a line. Raises ``ListError``."""
        scope = result.line.scope
        return Binder(scope, "", Fixed(day_of_now())).value(put_in_value(node, scope.dials))

    def _tools(self, token: CancelToken, progress: Progress | None, resolver: Resolver) -> Tools:
        def rows_of(other: OtherRows) -> tuple[Frame, Settled]:
            if other.table is not None:
                return source_frame(other.table), resolver.settled
            frame = source_frame(self.runner.table)
            for result in self.run_bound(other.lines, token, progress, within=resolver):
                frame = result.frame
            return frame, resolver.settled

        return Tools(
            self.runner, self.pieces, self._ranks, self._groups, token, progress, self._seconds, rows_of
        )  # fmt: skip

    def _other_cut(
        self, body: BoundFrom, frame: Frame, mark: hashlib.blake2b, tools: Tools, resolver: Resolver
    ) -> Worked:
        """Run the lines of another cut; their results are kept as those of any line are."""
        rows, table, scope = frame.rows, frame.table, None
        for result in self.run_bound(body.lines, tools.token, tools.progress, within=resolver):
            rows, table, scope = result.rows, result.frame.table, result.line.scope
            mark.update(result.fingerprint.encode())
        if table is frame.table:
            return Worked(rows)
        if not table.leads_to_source:
            return Worked(rows, table=table, members=frame.rows, scope=_told(body, scope))
        drawn = RowSet(frame.table.rows, bit.of_ids(table.source_ids(rows.ids(0, rows.count)), frame.table.rows))
        return Worked(rows, table=table, members=drawn)

    def _line(self, line: BoundLine, frame: Frame, mark: hashlib.blake2b, tools: Tools) -> Worked:
        body = line.bound.body if line.bound is not None else None
        run = WORKS[type(body)].run if body is not None else None
        if run is None:
            return Worked(frame.rows)
        mark.update(repr(body).encode("utf-8", "surrogatepass"))
        try:
            return self._worked.get_or(mark.hexdigest(), lambda: run(body, frame, tools))
        except ListError as error:  # only the rows say that it makes no sense
            raise error.in_statement(line.line.text) from None


def _resolved(resolver: Resolver, line: BoundLine, frame: Frame, before: str, tools: Tools) -> BoundLine:
    """Return a line with nothing left to find out in it. Raises ``ListError`` for a second table with doubled keys."""
    try:
        return resolver.line(line, frame, before, tools)
    except DoubledKeysError as error:
        raise error.offered(line.line.text, frame.rows).in_statement(line.line.text) from None
    except ListError as error:
        raise error.in_statement(line.line.text) from None


def _with_found(line: BoundLine, worked: Worked, resolver: Resolver) -> BoundLine:
    """Return a line with the columns, and the values in them, that became known with its rows."""
    if worked.scope is not None:
        line = replace(line, scope=worked.scope.beside(line.scope))
    if worked.known:
        resolver.know(worked.known)
        line = resolver.with_scope(line)
    return line


def _bound_now(line: BoundLine, scope: Scope | None) -> BoundLine:
    """Return a line bound to columns that only the rows told. Raises ``ListError`` where it makes no sense so."""
    if line.later is None or scope is None:
        return line
    bound = line.later(scope)
    if bound.error is not None:
        raise bound.error.in_statement(line.line.text)
    return replace(bound, later=line.later)  # other rows may tell of other columns


def _told(body: BoundFrom, scope: Scope | None) -> Scope | None:
    """Return the columns of another cut, nothing hidden, where only its rows told them."""
    is_open = bool(body.lines) and body.lines[-1].scope.open
    return replace(scope, shown=scope.known) if is_open and scope is not None else None
