"""Random lines, and good ones that were mutated, through the command: a result or a sentence, never a fault."""

from __future__ import annotations

import random
from pathlib import Path

from reliability.command import run
from reliability.yard import SMALL, good_lines, write_packs

_WORDS = [
    "keep", "drop", "order", "draw", "make", "columns", "save", "off", "AND", "OR", "NOT", "IS", "NULL", "IN", "(", ")", ",",
    "=", "<", ">", "<=", "<>", "+", "-", "*", "/", "'oak'", "'%'", "LIKE", "LIKE_REGEX", "CONTAINS", "BETWEEN", "SYMMETRIC",
    "STARTS", "WITH", "IGNORING", "CASE", "species", "grade", "boards", "price", "felled_on", "ticket", "#1", "#-1", "#99", "1",
    "0", "-1", "1e400", "1e-400", "9" * 30, "0.1", "first", "last", "random", "top", "bottom", "by", "per", "percent", "seed",
    "chance", "1 in 10", "remainder", "ties", "all", "without", "AS", "kind", "number", "DESC", "NULLS", "FIRST", "ABS(",
    "'2031-03-01'", "DATE", "U&'\\D800'", "U&'\\0041'", "''", '""', "--", "\x00", "木", "\ud800", "'", '"', "**", "..", "~",
]  # fmt: skip


def turn(seed: int, folder: Path) -> str | None:
    """Run a few lines, one below the other, over a small table."""
    rng = random.Random(seed)
    write_packs(folder / "packs.csv", SMALL, seed % 7)
    lines = [some_line(rng) for _ in range(rng.choice((1, 1, 1, 2, 3)))]
    words = ["cut", "packs.csv", *(part for line in lines for part in ("-l", line))]
    if any("\0" in word for word in words):
        words = [word.replace("\0", "\x01") for word in words]
    wrong = run(words, folder).wrong()
    return None if wrong is None else f"{words!r}: {wrong}"


def some_line(rng: random.Random) -> str:
    """Return a line: words in any order, or a good one with a few of its characters or words changed."""
    if rng.random() < 0.3:
        return " ".join(rng.choice(_WORDS) for _ in range(rng.randint(1, 12)))
    line = rng.choice(good_lines())
    for _ in range(rng.randint(0, 3)):
        line = _mutated(rng, line)
    return line


def _mutated(rng: random.Random, line: str) -> str:
    words = line.split(" ")
    place = rng.randrange(len(words))
    match rng.randrange(6):
        case 0:
            words[place] = rng.choice(_WORDS)
        case 1:
            words.insert(place, rng.choice(_WORDS))
        case 2:
            del words[place]
        case 3:
            words += words[place:]
        case 4:
            at = rng.randrange(len(line) + 1)
            return line[:at] + rng.choice("'\"()<>=,.-*#\\%_0a \t\n") + line[at + 1 :]
        case _:
            rng.shuffle(words)
    return " ".join(words)
