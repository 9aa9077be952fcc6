"""What is said of a draw beside its count, wherever it was carried out."""

from __future__ import annotations

import math
from fractions import Fraction

from yardcut.core.language.verbs.draw_parts import Draw

_MOSTLY = 1.96
"""Standard deviations within which 95 of 100 draws stay."""


def passed_over_notes(passed_over: int, what: str) -> list[str]:
    """Say how many rows have nothing to be ranked by."""
    if not passed_over:
        return []
    one = passed_over == 1
    return [f"{passed_over:,} {'row has' if one else 'rows have'} no {what} and {'was' if one else 'were'} passed over"]


def tie_notes(with_ties: bool, tied: int) -> list[str]:
    """Say how many rows are equal to the last one taken and were left out, or taken too."""
    if not tied:
        return []
    if with_ties:
        one = tied == 1
        return [
            f"{tied:,} more {'row ties' if one else 'rows tie'} at the edge and {'was' if one else 'were'} taken too"
        ]
    if tied == 1:
        return ["1 row that ties at the edge was left out; the earlier one won"]
    return [f"{tied:,} rows that tie at the edge were left out; the earlier ones won"]


def short_notes(there: int, asked: int) -> list[str]:
    """Say that there are fewer rows than are asked for."""
    if asked <= there:
        return []
    return [f"there {'was only 1 row' if there == 1 else f'were only {there:,} rows'} to take {asked:,} from"]


def chance_note(draw: Draw, rows: int) -> str:
    """Say the seed of a draw of each row by a chance, and how many of some rows it takes."""
    return f"seed {draw.seed}; each row on its own, so another seed gives another count: {_usual(rows, draw.chance)}"


def _usual(rows: int, chance: Fraction) -> str:
    """Say how many of some rows a chance takes, and between which counts it stays 19 times in 20 (binomial)."""
    expected = rows * chance
    spread = _MOSTLY * math.sqrt(expected * (1 - chance))
    low, high = max(0, math.ceil(expected - spread)), min(rows, math.floor(expected + spread))
    return f"about {round(expected):,}, mostly {low:,} to {high:,}"
