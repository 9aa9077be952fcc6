"""The work of ``tally``: groups, the aggregates in each, and a table of both."""

from __future__ import annotations

import hashlib
from dataclasses import replace

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.frame import Frame, source_scope
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.verbs.tally import BoundTally
from yardcut.core.ranking.grouping.many_groups import KeysOfRows
from yardcut.core.run.executing.cross_tables import across
from yardcut.core.run.executing.group_values import groups_of, measured
from yardcut.core.run.executing.works.work import Tools, Work, Worked
from yardcut.core.table.held_table import HeldTable
from yardcut.core.table.joining_vectors import join_vectors
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.vectors import CodedVector, Vector, taken_from
from yardcut.core.table.window import Span
from yardcut.core.tallying.aggregate_kernels import Measured, vector_of, with_one_more
from yardcut.core.tallying.row_groups import RowGroups
from yardcut.core.values.kinds import Kind


def _run(body: BoundTally, frame: Frame, tools: Tools) -> Worked:
    if tools.progress is not None:
        tools.progress.begin("putting rows together", frame.rows.count)
    cells = body.groups if body.along is None else (*body.groups, body.along)
    groups = groups_of(cells, frame.rows, tools)
    found = [measured(aggregate, groups, tools) for aggregate in body.aggregates]
    mark = _mark(body, frame, groups)
    empty = vector_of(Kind.INTEGER, [0])
    vectors = key_vectors(cells, groups, frame)
    vectors += [
        with_one_more(each.vector, empty if aggregate.function.startswith("COUNT") else None)
        for aggregate, each in zip(body.aggregates, found, strict=True)
    ]
    vectors[: len(cells)] = [with_one_more(vector, None) for vector in vectors[: len(cells)]]
    inner = HeldTable(mark, [str(place) for place in range(len(vectors))], vectors, len(groups) + 1)
    window = Span(inner, 0, len(groups) + 1)
    values = [evaluate(column.value, window) for column in body.measures]
    notes = [_size(body, groups), *_left_out(body, found, frame)]
    if body.along is None:
        rows = np.arange(len(groups))
        shown = [taken_from(vector, rows) for vector in (*vectors[: len(cells)], *values)]
        names = [*body.names, *(column.name for column in body.measures)]
        table = HeldTable(mark, names, shown, len(groups), frame.table.info.files)
        return Worked(RowSet(table.rows), notes=tuple(notes), table=table, members=frame.rows)
    table, more, along = across(body, vectors[: len(cells)], values, groups, (mark, frame.table.info.files))
    scope = replace(source_scope(table), leads_to_source=False)
    return Worked(RowSet(table.rows), notes=(*notes, *more), table=table, members=frame.rows, scope=scope, along=along)


def _mark(body: BoundTally, frame: Frame, groups: RowGroups) -> str:
    digest = hashlib.blake2b(f"{frame.table.fingerprint}{body!r}".encode("utf-8", "surrogatepass"), digest_size=16)
    if frame.rows.bits is not None:
        digest.update(frame.rows.bits.tobytes())
    if frame.rows.order is not None:  # it says which group comes first
        digest.update(groups.numbers.tobytes())
    return digest.hexdigest()


def _left_out(body: BoundTally, found: list[Measured], frame: Frame) -> list[str]:
    notes: list[str] = []
    for aggregate, each in zip(body.aggregates, found, strict=True):
        notes += each.notes
        rows = frame.rows.count - each.present
        if aggregate.values and aggregate.where is None and rows:
            notes.append(f"{aggregate.text} leaves out {rows:,} {'row' if rows == 1 else 'rows'} without a value")
    return notes


def _size(body: BoundTally, groups: RowGroups) -> str:
    rows = f"{groups.rows.count:,} {'row' if groups.rows.count == 1 else 'rows'}"
    if not body.groups and body.along is None:
        return f"{rows} put together"
    gone = 0
    if len(groups) < _MANY:
        gone = sum(int(groups.counts[place]) for place, key in enumerate(groups.keys) if None in key)
    without = f", {gone:,} {'row' if gone == 1 else 'rows'} without a group value" if gone else ""
    return f"{rows} in {len(groups):,} {'group' if len(groups) == 1 else 'groups'}{without}"


_MANY = 1 << 17
_BLOCK = 1 << 16


def key_vectors(values: tuple[b.BoundValue, ...], groups: RowGroups, frame: Frame) -> list[Vector]:
    """Return for each value that tells groups apart a vector with that of each group."""
    if isinstance(groups.keys, KeysOfRows):
        return [_from_rows(value, groups.keys) for value in values]
    columns = zip(*groups.keys, strict=True) if len(groups) and values else [()] * len(values)
    return [vector_of(value.kind, column) for value, column in zip(values, columns, strict=True)]


def _from_rows(value: b.BoundValue, keys: KeysOfRows) -> Vector:
    found = [evaluate(value, keys.window(start, start + _BLOCK)) for start in range(0, len(keys), _BLOCK)]
    if isinstance(found[0], CodedVector):
        codes = np.concatenate([each.codes for each in found if isinstance(each, CodedVector)])
        return CodedVector(codes.astype(np.int64), found[0].dictionary)
    return join_vectors([each for each in found if not isinstance(each, CodedVector)])


TALLY = Work(_run)
