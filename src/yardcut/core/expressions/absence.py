"""Why an expression has no value: which input was missing, or which operation has no answer."""

from __future__ import annotations

import numpy as np

from yardcut.core.expressions.choosing_values import branches_taken, choose
from yardcut.core.expressions.evaluating import answers_of, apply, evaluate, is_spared
from yardcut.core.expressions.zones import on_the_clock
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import columns_named, parts_of
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import Vector
from yardcut.core.table.window import Window


@dataclass(frozen=True, slots=True)
class Absence:
    """A reason for a missing value: ``is_unanswered`` where an operation has no answer though its parts have values."""

    text: str
    is_unanswered: bool = False


Reasons = dict[Absence, Array]
"""Where each reason holds (boolean arrays); no row has two, and together they are the rows without a value."""


def absences(value: b.BoundValue, window: Window) -> Reasons:
    """Return why rows of a window have no value of an expression; of several reasons the leftmost."""
    return _explained(value, window)[1]


def _explained(value: b.BoundValue, window: Window) -> tuple[Vector, Reasons]:
    match value:
        case b.Minus() | b.Computed() | b.Call():
            return _operation(value, window)
        case b.Case(branches, otherwise, kind):
            taken = branches_taken(answers_of([condition for condition, _ in branches], window), len(window))
            found = [_explained(part, window) for part in (*(then for _, then in branches), otherwise)]
            reasons: Reasons = {}
            for number, (_, inner) in enumerate(found):
                for reason, mask in inner.items():
                    _put(reasons, reason, mask & (taken == number))
            chosen = choose(taken, [vector for vector, _ in found], kind)
            return on_the_clock(chosen, value, window.table), reasons
        case _:
            vector = evaluate(value, window)
            gone = vector.missing_mask()
            return vector, {} if gone is None or not gone.any() else {Absence(_empty(value)): gone}


def _operation(operation: b.Operation, window: Window) -> tuple[Vector, Reasons]:
    parts = parts_of(operation)
    inner: list[tuple[Vector | None, Reasons]] = [
        (None, {}) if is_spared(operation, part) else _explained(part, window) for part in parts
    ]
    result = on_the_clock(apply(operation, [vector for vector, _ in inner], len(window)), operation, window.table)
    left = result.missing_mask()
    if left is None or not left.any():
        return result, {}
    left = np.array(left, dtype=np.bool_)
    reasons: Reasons = {}
    if isinstance(operation, b.Call) and operation.passes_over:
        gone = [None if vector is None else vector.missing_mask() for vector, _ in inner]
        none_left: Array = left if all(mask is not None for mask in gone) else np.zeros_like(left)
        for each in gone:
            none_left = none_left if each is None else none_left & each
        _put(reasons, Absence(f"no value for {operation.text}"), none_left)
        left &= ~none_left
    else:
        for _, found in inner:
            for reason, mask in found.items():
                _put(reasons, reason, mask & left)
                left &= ~mask
    _put(reasons, Absence(operation.text, is_unanswered=True), left)
    return result, reasons


def _put(reasons: Reasons, reason: Absence, mask: Array) -> None:
    if mask.any():
        reasons[reason] = reasons[reason] | mask if reason in reasons else mask


def _empty(value: b.BoundValue) -> str:
    match value:
        case b.ColumnValue(name=name) | b.Made(name=name):
            return f"no value in {name}"
        case b.NoValue():
            return "NULL by the line itself"
        case b.Truth(condition):
            names = [column.name for column in columns_named(condition)]
            return f"no value in {' or '.join(names)}" if names else "a condition without an answer"
        case _:
            return "no value"
