"""Ranks of weighted draws without replacement, and the rows that have a weight."""

from __future__ import annotations

from dataclasses import field

import numpy as np

from yardcut.core.expressions.computing.logarithms import natural_logarithm
from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_known import BIT_A_ROW
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import NumericVector
from yardcut.core.table.window import Span

_HALF_STEP = 2.0**-54
_STEP = 2.0**-53
_ALLOWANCE = 1 + 1e-9
_WORST = np.uint64(0xFFFFFFFFFFFFFFFF)


def weighted_ranks(ranks: Array, weights: Array) -> Array:
    """Return ranks (uint64) by which the first n rows are a draw of n weighted without replacement.

    Row i has the key ``-ln(u) / w``, smallest first, with u in (0, 1) from the first 53 bits of its rank by chance:
    the order of algorithm A-ES (Efraimidis and Spirakis, Weighted random sampling with a reservoir, Information
    Processing Letters 97, 2006), whose key ``u ^ (1/w)`` falls as this one rises. So the first row drawn is i with the
    probability ``w_i / sum(w)``, and each further one is drawn so among the rest. Positive doubles compare as their
    bits do. Rows without a weight come last.
    """
    usable = weights > 0
    keys = -natural_logarithm(_uniform(ranks)) / np.where(usable, weights, 1.0)
    return np.where(usable, keys.view(np.uint64), _WORST)


def may_pass(ranks: Array, weights: Array, limits: Array) -> Array:
    """Return the positions of rows whose weighted ranks may be as low as some limits (uint64, one, or one a row).

    The logarithm of numpy is quick, and differs between processors in the last place only: far less than is allowed
    here. So the exact one is worked out for few rows.
    """
    most = np.where(limits == _WORST, np.inf, limits.view(np.float64)) * _ALLOWANCE
    with np.errstate(divide="ignore"):
        keys = np.where(weights > 0, -np.log(_uniform(ranks)) / weights, np.inf)
    passing: Array = np.flatnonzero(keys <= most)
    return passing


def _uniform(ranks: Array) -> Array:
    """Return numbers in (0, 1), spaced evenly, of the first 53 bits of ranks."""
    return (ranks >> np.uint64(11)).astype(np.float64) * _STEP + _HALF_STEP


def weights_of(value: BoundValue, table: Table, first_row: int, end_row: int) -> Array:
    """Return the weights (float64) of some rows of the table; 0 where there is none."""
    vector = evaluate(value, Span(table, first_row, end_row))
    assert isinstance(vector, NumericVector)
    weights = vector.values.astype(np.float64)
    missing = vector.missing_mask()
    if missing is not None:
        weights[missing] = 0.0
    weights[np.isnan(weights)] = 0.0
    return weights


@dataclass(frozen=True, slots=True, eq=False)
class Weights:
    """``some`` marks the members with a weight (bits); ``wrong`` is the first row whose weight cannot be one, or -1."""

    some: Array
    wrong: int = -1


_State = dict[int, tuple[Array, int]]


@dataclass(frozen=True, slots=True, eq=False)
class WeightRound(Round[_State, Weights]):
    """Looks at the weights of the members: missing and 0 are none, negative and infinite ones are wrong."""

    value: BoundValue
    members: Array | None = field(metadata=BIT_A_ROW)

    def scan(self, table: Table, part: Part) -> _State:
        """Look at one part."""
        weights = weights_of(self.value, table, part.first_row, part.end_row)
        if self.members is not None:
            weights[~bit.unpack(self.members, part.first_row, part.end_row)] = 0.0
        wrong = np.flatnonzero((weights < 0) | np.isinf(weights))
        return {part.first_row: (bit.pack(weights > 0), part.first_row + int(wrong[0]) if len(wrong) else -1)}

    def merge(self, one: _State, other: _State) -> _State:
        """Put parts side by side."""
        return one | other

    def finish(self, state: _State) -> Weights:
        """Join the parts in the source's order."""
        parts = [state[start] for start in sorted(state)]
        wrong = [first for _, first in parts if first >= 0]
        return Weights(np.concatenate([np.empty(0, np.uint8), *(some for some, _ in parts)]), min(wrong, default=-1))
