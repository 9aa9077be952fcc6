"""Seeds that are chosen for draws which name none."""

from __future__ import annotations

import random

from yardcut.core.language.lines import statement_text, wants_seed, with_seed
from yardcut.core.language.syntax.parsing_lines import parse_statement

_LARGEST_CHOSEN_SEED = 9999


def chosen_seed() -> int:
    """Return a seed for a draw that names none: short, so that it can be read out and typed."""
    return random.SystemRandom().randint(1, _LARGEST_CHOSEN_SEED)


def with_chosen_seed(text: str, seed: int | None = None) -> str:
    """Return a line with a seed written in where it draws by chance and names none; one chosen now if none is given."""
    statement = parse_statement(text)
    if not wants_seed(statement):
        return text
    return statement_text(with_seed(statement, chosen_seed() if seed is None else seed))
