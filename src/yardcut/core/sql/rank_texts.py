"""The ranks of draws by chance in SQL (PostgreSQL): the same numbers as here, by which the same rows are drawn.

A bigint has 64 bits, as a rank has, and an operation that goes beyond them is an error; shifts and bits are not. So
products are put together from pieces of at most 48 bits.
"""

from __future__ import annotations

from yardcut.core.language.verbs.draw_parts import Draw
from yardcut.core.ranking.hashing import GAMMA, LAST_SHIFT, MIXING, chance_limit, first_state
from yardcut.core.sql.dialects import quoted_name

_WORDS, _HALF = 1 << 64, 1 << 63
_LOW32, _LOW16 = (1 << 32) - 1, (1 << 16) - 1


def _mixed(word: str, shift: int) -> str:
    """Write 64 bits XORed with themselves shifted right; the sign is a bit like others there."""
    return f"({word} # (({word} >> {shift}) & {(1 << (64 - shift)) - 1}))"


def _low_of_product(half: str, factor: int) -> str:
    """Write the low 32 bits of the product of 32 bits and 32 bits of a factor, as pieces to be added and cut again."""
    low, high = factor & _LOW16, (factor >> 16) & _LOW16
    return f"(({half} * {low}) & {_LOW32}) + ((({half} * {high}) & {_LOW16}) << 16)"


def _with_product(rows: str, word: str, factor: int, added: int, name: str) -> str:
    """Return rows with 64 bits beside them: those of a word times a factor, and a number added, modulo 2^64."""
    low, high, one, two, sums, upper = (quoted_name(f"{name} {part}") for part in ("l", "h", "p", "q", "s", "u"))
    steps = (
        {low: f"{word} & {_LOW32}", high: f"({word} >> 32) & {_LOW32}"},
        {one: f"{low} * {factor & _LOW16}", two: f"{low} * {(factor >> 16) & _LOW16}"},
        {
            sums: f"({one} & {_LOW32}) + (({two} & {_LOW16}) << 16) + {added & _LOW32}",
            upper: f"({one} >> 32) + ({two} >> 16) + {_low_of_product(high, factor & _LOW32)}"
            f" + {_low_of_product(low, factor >> 32)} + {added >> 32}",
        },
        {quoted_name(name): f"((({upper} + ({sums} >> 32)) & {_LOW32}) << 32) | ({sums} & {_LOW32})"},
    )
    for step in steps:
        rows = _beside(rows, step)
    return rows


def _beside(rows: str, columns: dict[str, str]) -> str:
    """Return rows with columns beside them, fenced by OFFSET: else they would be written into what uses them."""
    told = ", ".join(f"{said} AS {name}" for name, said in columns.items())
    return f"SELECT *, {told} FROM (\n{rows}\n) AS there OFFSET 0"


def with_ranks(rows: str, number: str, seed: int, name: str) -> str:
    """Return rows with their ranks beside them, in a column of that name: bigints in the order of the ranks.

    ``number`` is the column with each row's number in the source, from 0. A rank of 64 bits has no sign and a bigint
    has one, so that the first bit is turned over.
    """
    rows = _with_product(rows, number, GAMMA, first_state(seed, 0), f"{name} 0")
    for place, (shift, factor) in enumerate(MIXING):
        mixed = quoted_name(f"{name} {place} mixed")
        rows = _beside(rows, {mixed: _mixed(quoted_name(f"{name} {place}"), shift)})
        rows = _with_product(rows, mixed, factor, 0, f"{name} {place + 1}")
    last = _mixed(quoted_name(f"{name} {len(MIXING)}"), LAST_SHIFT)
    return f"SELECT *, {last} # CAST(-{_HALF} AS bigint) AS {quoted_name(name)} FROM (\n{rows}\n) AS there"


def below_chance(rank: str, draw: Draw) -> str:
    """Return the condition that a row is drawn by its chance."""
    limit = chance_limit(draw.chance)
    return "TRUE" if limit >= _WORDS else f"({rank} < {limit - _HALF})"
