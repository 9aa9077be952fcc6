"""Lines on offer: how many rows each would leave, all counted in one round, each told as it comes."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from itertools import groupby
from typing import Any

from yardcut.core.cutlist.model import Line
from yardcut.core.errors import ListError
from yardcut.core.expressions.evaluating import combine_parts
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binder import Bound
from yardcut.core.language.meaning.bound_parts import pieces_of
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.bound_lines import BoundLine, bind_line
from yardcut.core.run.executing.pieces import PieceCache
from yardcut.core.run.executing.whole_values import waiting_in
from yardcut.core.table import bits as bit
from yardcut.core.table.rowset import RowSet
from yardcut.tui.desk.moment import Moment

Tell = Callable[[Any, int], None]


@dataclass(frozen=True, slots=True)
class Offer:
    """A line on offer and where it would stand, with whatever the asker knows it by."""

    key: Any
    index: int
    text: str


@dataclass(frozen=True, slots=True)
class Count:
    """A condition whose rows are wanted; ``drops`` when the rows for which it is true go."""

    key: Any
    condition: b.BoundCondition
    drops: bool = False


def bound_offer(moment: Moment, offer: Offer, seed: int = 0) -> Bound | None:
    """Bind a line on offer to the columns that reach its place. Raises ``ListError``."""
    scope = moment.scope_for_work(offer.index - 1)
    return bind_line(offer.text, scope, default_seed=seed, is_first=offer.index == 0, earlier=moment.earlier)


def count_offers(
    moment: Moment, offers: Iterable[Offer], tell: Tell, token: CancelToken, progress: Progress | None = None
) -> None:
    """Tell how many rows each line would leave; one that cannot be bound, or not be counted yet, is passed over.

    The quick ones come first: conditions of pieces that are known, then those that cost a look at the rows, then what
    must be run.
    """
    conditions: list[tuple[int, Count]] = []
    others: list[tuple[Offer, Bound]] = []
    for offer in offers:
        try:
            bound = bound_offer(moment, offer)
        except ListError:
            continue
        if bound is None:
            continue
        body = bound.body
        if isinstance(body, BoundFilter) and body.condition is not None and not waiting_in(body):
            conditions.append((offer.index, Count(offer.key, body.condition, body.drops)))
        else:
            others.append((offer, bound))
    conditions.sort(key=lambda each: each[0])
    for index, some in groupby(conditions, key=lambda each: each[0]):
        frame = moment.frame_at(index - 1)
        if frame is not None:
            count_conditions(
                moment.executor.pieces.over(frame.table),
                frame.rows,
                [count for _, count in some],
                tell,
                token,
                progress,
            )
    for offer, bound in others:
        line = BoundLine(Line(offer.text), parse_statement(offer.text), bound, bound.scope)
        lines = (*moment.lines[: offer.index], line)
        results = list(moment.executor.run_bound(lines, token, progress))
        if len(results) == len(lines):
            tell(offer.key, results[-1].rows.count)


def count_conditions(
    pieces: PieceCache, rows: RowSet, counts: Sequence[Count], tell: Tell, token: CancelToken,
    progress: Progress | None = None,
) -> None:  # fmt: skip
    """Tell how many of some rows each condition would leave; those whose answers are known come first."""
    known = [count for count in counts if pieces.knows(pieces_of(count.condition))]
    rest = [count for count in counts if count not in known]
    members = rows.member_bits()
    for some in (known, rest):
        wanted = tuple(piece for count in some for piece in pieces_of(count.condition))
        if not wanted:
            continue
        answers = pieces.answers(b.AllOf(wanted), token, progress)
        for count in some:
            token.check()
            true = bit.count(members & combine_parts(count.condition, answers).true)
            tell(count.key, rows.count - true if count.drops else true)
