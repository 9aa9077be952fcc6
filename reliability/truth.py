"""Random cuts, judged by the reference of the language (``tests/reference``) and by ourselves in other ways."""

from __future__ import annotations

import random
import sys
from functools import lru_cache
from pathlib import Path
from tempfile import mkdtemp
from typing import Any

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from judging import by_package, by_reference, difference, make_sources, some_cut
from reference.generating import Generator
from yardcut.core.errors import ListError
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner

CASES = 100
"""Of one turn: they share their tables, and what is kept of them."""


@lru_cache(maxsize=1)
def _sources() -> list[tuple[Any, Any, Executor]]:
    folder = Path(mkdtemp())
    found = [make_sources(folder, rows, seed) for rows, seed in ((40, 1), (60, 2), (7, 3), (1, 4), (150, 5))]
    return [(plain, table, Executor(LocalRunner(table))) for plain, table in found]


def turn(seed: int, folder: Path) -> str | None:
    """Try a hundred cuts; tell of the first that two judges see otherwise."""
    for number in range(CASES):
        generator = Generator(seed * CASES + number)
        plain, table, kept = random.Random(seed + number).choice(_sources())
        lines = (
            some_cut(seed * CASES + number, plain)
            if number % 3 == 0
            else [generator.line() for _ in range(generator.pick(1, 1, 2, 3, 4))]
        )
        try:
            ours = by_package(lines, kept)
        except ListError:
            continue
        judges = [("the reference", by_reference(lines, plain))]
        if number % 4 == 0:
            judges.append(("a fresh run", by_package(lines, Executor(LocalRunner(table), 0))))
        for judge, found in judges:
            said = difference(lines, found, ours)
            if said is not None:
                return f"{judge}, case {seed * CASES + number}: {said.lines}: {said.said}"
    return None
