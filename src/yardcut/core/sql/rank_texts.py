"""The ranks of draws by chance in SQL (PostgreSQL): the same numbers as here, by which the same rows are drawn."""

from __future__ import annotations

from yardcut.core.language.verbs.draw_parts import Draw
from yardcut.core.ranking.hashing import GAMMA, LAST_SHIFT, MIXING, chance_limit, first_state
from yardcut.core.sql.dialects import quoted_name

_WORDS, _HALF = 1 << 64, 1 << 63


def _as_word(number: str) -> str:
    """Write a whole number that is zero or more as its last 64 bits, which a bigint holds with a sign."""
    return f"CAST(mod({number} + {_HALF}, {_WORDS}) - {_HALF} AS bigint)"


def _mixed(word: str, shift: int) -> str:
    """Write 64 bits XORed with themselves shifted right; the sign is a bit like others there."""
    return f"({word} # (({word} >> {shift}) & {(1 << (64 - shift)) - 1}))"


def with_ranks(rows: str, number: str, seed: int, name: str) -> str:
    """Return rows with their ranks beside them, in a column of that name: bigints in the order of the ranks.

    ``number`` is the column with each row's number in the source, from 0. Each step is a table of its own, fenced by
    OFFSET: the server would write the one before into it several times. A rank of 64 bits has no sign and a bigint has
    one, so that the first bit is turned over.
    """
    step = f"mod(CAST({number} AS numeric) * {GAMMA} + {first_state(seed, 0)}, {_WORDS})"
    steps = [_as_word(step)]
    for place, (shift, factor) in enumerate(MIXING):
        word = quoted_name(f"{name} {place}")
        steps.append(_as_word(f"mod(CAST({_mixed(word, shift)} AS numeric) * {factor}, {_WORDS}) + {_WORDS}"))
    for place, each in enumerate(steps):
        rows = f"SELECT *, {each} AS {quoted_name(f'{name} {place}')} FROM (\n{rows}\n) AS there OFFSET 0"
    last = _mixed(quoted_name(f"{name} {len(MIXING)}"), LAST_SHIFT)
    return f"SELECT *, {last} # CAST(-{_HALF} AS bigint) AS {quoted_name(name)} FROM (\n{rows}\n) AS there"


def below_chance(rank: str, draw: Draw) -> str:
    """Return the condition that a row is drawn by its chance."""
    limit = chance_limit(draw.chance)
    return "TRUE" if limit >= _WORDS else f"({rank} < {limit - _HALF})"
