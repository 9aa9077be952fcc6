"""Why so few rows are left: what each piece of a condition takes, and the nearest bound that lets more through."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping.condition_tree import Path, children, node_at, path_of, replaced, walk
from yardcut.core.language.helping.value_sets import literal_node
from yardcut.core.language.lines import statement_text
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.language.verbs.filter_parts import Drop
from yardcut.core.profile.distinct import distinct_values
from yardcut.core.profile.extremes import ExtremeRound
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.tree_counts import Counting, condition_of, value_and_bound
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.values.formatting import formatter
from yardcut.core.values.kinds import Kind

_MOST_PIECES = 40


@dataclass(frozen=True, slots=True)
class Loosening:
    """Another form of a line that leaves more rows: what it says, its text ("": none), and the rows it leaves."""

    says: str
    text: str
    leaves: int


def loosenings(result: LineResult, executor: Executor, token: CancelToken) -> Iterator[Loosening]:
    """Yield the ways to let more rows through a keep or drop, piece by piece; each leaves more than the line does."""
    root = condition_of(result)
    if root is None:
        return
    work = _Loosening(result, root, executor, token)
    pieces = [path for path, node in walk(root) if not children(node) and not _is_off(root, path)]
    found = False
    for path in pieces[:_MOST_PIECES]:
        for says, changed in work.of_piece(path):
            token.check()
            leaves = work.left(changed)
            if leaves is not None and leaves > result.rows.count:
                found = True
                yield Loosening(says, "" if changed is None else work.text(changed), leaves)
    if not found:
        yield from work.without_several(pieces[:_MOST_PIECES])


def _is_off(root: t.Expression, path: Path) -> bool:
    return any(isinstance(node_at(root, path[:depth]), t.Off) for depth in range(len(path) + 1))


def _is_turned(root: t.Expression, path: Path) -> bool:
    """Tell whether a piece stands where letting more through there may let fewer through the whole."""
    return any(isinstance(node_at(root, path[:depth]), t.Not | t.IsTruth) for depth in range(len(path)))


class _Loosening:
    """The ways of one line."""

    def __init__(self, result: LineResult, root: t.Expression, executor: Executor, token: CancelToken) -> None:
        self._result, self._root, self._executor, self._token = result, root, executor, token
        self._runner = executor.runner.over(result.before.table)
        self._counting = Counting(result, executor, token)
        self._members = result.before.rows.member_bits()
        statement = result.line.statement
        assert statement is not None
        self._statement = statement
        self._drops = isinstance(statement.body, Drop)

    def text(self, root: t.Expression) -> str:
        """Write the line with another condition."""
        body = replace(self._statement.body, condition=root)  # type: ignore[call-arg] # it is a keep or drop
        return statement_text(replace(self._statement, body=body))

    def left(self, root: t.Expression | None) -> int | None:
        """Return how many rows the line would leave with another condition."""
        return self._counting.left(root)

    def _true(self, root: t.Expression) -> Array | None:
        answers = self._counting.answers(root)
        return None if answers is None else self._members & answers.true

    def without_several(self, pieces: Sequence[Path]) -> Iterator[Loosening]:
        """Yield the line without several pieces, where one alone does not help: those that pass the fewest go first."""
        passing = {path: self.left(node_at(self._root, path)) or 0 for path in pieces}
        root: t.Expression | None = self._root
        gone: list[t.Expression] = []
        for path in sorted(pieces, key=lambda path: passing[path]):
            piece = node_at(self._root, path)
            if root is None:
                return
            root = replaced(root, path_of(root, piece, ()), None)
            gone.append(piece)
            leaves = self.left(root)
            if leaves is not None and leaves > self._result.rows.count:
                says = "without " + " and ".join(map(expression_text, gone))
                yield Loosening(says, "" if root is None else self.text(root), leaves)
                return

    def of_piece(self, path: Path) -> Iterator[tuple[str, t.Expression | None]]:
        """Yield what could be done to one piece, and the condition then."""
        piece = node_at(self._root, path)
        yield f"without {expression_text(piece)}", replaced(self._root, path, None)
        if self._drops or _is_turned(self._root, path):
            return
        for says, other in self._nearest(piece, path):
            yield says, replaced(self._root, path, other)

    def _nearest(self, piece: t.Expression, path: Path) -> Iterator[tuple[str, t.Expression]]:
        """Yield the piece with the nearest bound, or one value more, that lets waiting rows through.

        Those wait that would be left if the piece were true of them.
        """
        among = self._true(replaced(self._root, path, t.Truth(True)) or t.Truth(True))
        now = self._true(self._root)
        about, bounds = value_and_bound(piece)
        if among is None or now is None or about is None:
            return
        waiting = among & ~now
        if not bit.count(waiting):
            return
        try:
            value = self._executor.value(about, self._result)
        except ListError:
            return
        about_it = _About(about, value, expression_text(about), waiting)
        for is_upper, bounded in bounds:
            yield from self._next_bound(piece, about_it, bounded, is_upper)
        if not bounds:
            yield from self._one_more(piece, about_it)
        yield f"rows without a value in {about_it.name}, too", t.Or((piece, t.IsNull(about)))

    def _next_bound(
        self, piece: t.Expression, about: _About, bounded: str, is_upper: bool
    ) -> Iterator[tuple[str, t.Expression]]:
        """Yield a piece with one bound moved to the nearest value of the waiting rows that stands beyond it."""
        bound = getattr(piece, bounded)
        if about.value.kind is Kind.TEXT or not isinstance(bound, LITERALS):
            return
        beyond = self._true(t.Comparison(">=" if is_upper else "<=", about.node, bound))
        if beyond is None:
            return
        found = self._runner.run(ExtremeRound(about.value, about.waiting & beyond, not is_upper), self._token)
        if found is None or not is_written_out(found):
            return
        shown = formatter(about.value.kind)(found)
        changed: dict[str, t.Expression | str] = {bounded: literal_node(about.value.kind, shown)}
        if isinstance(piece, t.Comparison):
            changed["operator"] = "<=" if is_upper else ">="
        other = replace(piece, **changed)  # type: ignore[arg-type] # the fields are there
        word = "lowest" if is_upper else "highest"
        yield f"the {word} {about.name} among the rest is {shown}: {expression_text(other)}", other

    def _one_more(self, piece: t.Expression, about: _About) -> Iterator[tuple[str, t.Expression]]:
        """Yield a piece that takes the commonest value of the waiting rows, too."""
        match piece:
            case t.Comparison("=", _, right, ignoring):
                items: tuple[t.Expression, ...] = (right,)
            case t.In(_, items, False, ignoring):
                pass
            case _:
                return
        if not all(isinstance(item, LITERALS) for item in items):
            return
        rows = RowSet(self._result.before.table.rows, about.waiting)
        counted = distinct_values(about.value, rows, self._runner, self._token)
        if not counted.values:
            return
        text, count = max(counted.values, key=lambda pair: pair[1])
        other = t.In(about.node, (*items, literal_node(about.value.kind, text)), ignoring_case=ignoring)
        yield f"the commonest {about.name} among the rest is {text} ({count:,}): {expression_text(other)}", other


def is_written_out(value: object) -> bool:
    """Tell whether there is a literal for a value: there is none for an infinity."""
    return not isinstance(value, float) or math.isfinite(value)


LITERALS = (t.Text, t.Number, t.Negated, t.Moment)


@dataclass(frozen=True, slots=True, eq=False)
class _About:
    """What a piece asks about, and the rows that wait."""

    node: t.Expression
    value: BoundValue
    name: str
    waiting: Array
