"""Looking rows up in a second table when a line runs: its index, kept by what it is made of, and the values found."""

from __future__ import annotations

import hashlib
from dataclasses import replace

import numpy as np

from yardcut.core.cached import Kept
from yardcut.core.errors import ListError, Mend
from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_known import Spread
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.language.meaning.bound_second import Brought, Listed, Matching
from yardcut.core.language.verbs.bring_parts import Match
from yardcut.core.matching.kept_index import kept_index
from yardcut.core.matching.key_index import index_keys
from yardcut.core.matching.latest_rows import latest_rows
from yardcut.core.matching.match_round import MatchRound
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.looked_up import SHOWN_KEYS, Indexed, Matched, RowsOf, Settled, plural_rows
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.vectors import NumericVector, taken_from
from yardcut.core.table.window import Scatter
from yardcut.core.tallying.aggregate_kernels import with_one_more
from yardcut.core.values.kinds import Kind

_LIMIT_BYTES = 512 << 20


class SecondValues:
    """Keeps what was looked up: by table and matching, whatever lines stand above."""

    def __init__(self) -> None:
        self._indexed: Kept[object, Indexed] = Kept(_LIMIT_BYTES, lambda indexed: indexed.size_bytes)
        self._matched: Kept[object, Matched] = Kept(_LIMIT_BYTES, lambda matched: matched.size_bytes)

    def matched(
        self, matching: Matching, runner: Runner, rows_of: RowsOf, token: CancelToken, progress: Progress | None
    ) -> Matched:
        """Return what all rows of the runner's table find. Raises ``ListError`` for keys that stand there twice."""
        key = (runner.table.fingerprint, matching)
        return self._matched.get_or(key, lambda: self._looked_up(matching, runner, rows_of, token, progress))

    def _looked_up(
        self, matching: Matching, runner: Runner, rows_of: RowsOf, token: CancelToken, progress: Progress | None
    ) -> Matched:
        kinds = tuple(key.kind for key in matching.keys)
        moment = matching.moment.kind if matching.moment is not None else None
        key = (matching.other, matching.their_keys, matching.their_moment, kinds, moment, matching.ignoring_case)
        indexed = self._indexed.get_or(
            key, lambda: _indexed(matching, kinds, *rows_of(matching.other), token, progress)
        )  # fmt: skip
        if indexed.latest is not None:
            _refuse_equal_times(matching, indexed)
        nothing = len(indexed.index) if indexed.latest is None else len(indexed.window)
        found = Matched(indexed, np.zeros(0, np.uint32), nothing, runner.table)
        if runner.table.rows:
            if progress is not None:
                progress.begin("looking rows up", runner.table.rows)
            look = MatchRound(matching.keys, indexed.index, nothing, matching.moment, indexed.latest)
            numbered = runner.run(look, token, progress)
            found = replace(found, numbers=numbered.numbers, counts=numbered.counts)
        if indexed.latest is None and not (matching.first or matching.every):
            _refuse_doubles(matching, found)
        return found


def _indexed(
    matching: Matching, kinds: tuple[Kind, ...], frame: Frame, settled: Settled, token: CancelToken,
    progress: Progress | None,
) -> Indexed:  # fmt: skip
    if progress is not None:
        progress.begin(f"reading the keys of {matching.other.said}", frame.rows.count)
    theirs = [settled(key.value) for key in matching.their_keys]
    moment = settled(matching.their_moment.value) if matching.their_moment is not None else None
    columns = set().union(*map(columns_of, theirs), set() if moment is None else columns_of(moment))
    frame.table.load(sorted(columns), token, progress)
    window = Scatter(frame.table, frame.rows.ids(0, frame.rows.count))
    keys = tuple(evaluate(their, window) for their in theirs)
    other = matching.other
    if other.lines:  # what a cut leaves may be drawn anew
        index = index_keys(keys, kinds, ignoring_case=matching.ignoring_case)
    else:
        made_of = f"{other.mark} {matching.their_keys!r}"
        index = kept_index(made_of, keys, kinds, ignoring_case=matching.ignoring_case)
    latest = None
    if moment is not None and matching.moment is not None:
        moments = evaluate(moment, window)
        assert isinstance(moments, NumericVector)
        latest = latest_rows(index, moments, matching.moment.kind)
    return Indexed(frame, window, keys, index, latest, settled)


class DoubledKeysError(ListError):
    """Keys of a second table stand there several times, and nothing says which row is meant."""

    matched: Matched

    def offered(self, line: str, rows: RowSet) -> DoubledKeysError:
        """Return this error with what could be written, and the rows that each would give."""
        first, every = plural_rows(rows.count), plural_rows(self.matched.rows_of_every_match(rows))
        self.mend = Mend(
            f"first match takes the first of them ({first}), every match repeats the row ({every})",
            f"{line.rstrip()} {Match.FIRST}",
        )
        return self


def _refuse_equal_times(matching: Matching, indexed: Indexed) -> None:
    """Raise ``ListError`` where two rows there have one key and one moment."""
    assert indexed.latest is not None
    if indexed.latest.same is not None:
        key = _key_texts(indexed, np.array(indexed.latest.same[:1]))[0]
        raise ListError(
            f"{matching.other.said} has two rows of {key} at the same time: neither is the latest",
            mend=Mend("leave one of them out there"),
        )


def _refuse_doubles(matching: Matching, matched: Matched) -> None:
    """Raise ``DoubledKeysError`` where a key stands there several times."""
    counts = matched.indexed.index.counts
    several = np.flatnonzero(counts > 1)
    if not len(several):
        return
    shown = _key_texts(matched.indexed, matched.indexed.index.first_rows[several[:SHOWN_KEYS]])
    times = [f"{key} ({int(counts[place])} times)" for key, place in zip(shown, several, strict=False)]
    more = f" and {len(several) - len(times):,} more" if len(several) > len(times) else ""
    error = DoubledKeysError(f"{matching.other.said} has keys that stand there several times: {', '.join(times)}{more}")
    error.matched = matched
    raise error


def _key_texts(indexed: Indexed, places: Array) -> list[str]:
    columns = [taken_from(key, places).texts() for key in indexed.keys]
    return [" ".join(text or "" for text in key) for key in zip(*columns, strict=True)]


def brought_value(brought: Brought, matched: Matched, table: str) -> Spread:
    """Return a brought column as a value of each row of the table with a fingerprint."""
    return values_there(brought, matched, matched.indexed.first_rows, matched.numbers, table)


def values_there(brought: Brought, matched: Matched, rows: Array, numbers: Array, table: str) -> Spread:
    """Return the values of a column in some rows there (by place) for the rows of a table, by their numbers among them.

    Two more numbers, behind the last, have no value.
    """
    window = matched.indexed.window
    value = matched.indexed.settled(brought.value.value)
    window.table.load(sorted(columns_of(value)), CancelToken())
    theirs = evaluate(value, Scatter(window.table, window.row_ids[rows]))
    values = with_one_more(with_one_more(theirs, None), None)
    return Spread(_mark(table, brought), brought.kind, numbers, values, table)


def listed_value(listed: Listed, matched: Matched, table: str) -> Spread:
    """Return whether a row is found there as a value of each row."""
    answers = np.ones(matched.nothing + 2, np.uint8)
    answers[matched.nothing :] = 0
    missing = np.zeros(len(answers), np.bool_)
    missing[-1] = True
    return Spread(
        _mark(table, listed), Kind.BOOLEAN, matched.numbers, NumericVector(Kind.BOOLEAN, answers, missing), table
    )


def _mark(table: str, value: b.SecondValue) -> str:
    return hashlib.blake2b(f"{table}{value!r}".encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()
