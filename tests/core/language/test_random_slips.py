"""Right lines broken at random: each is taken, or is a sentence with its place; a mend that is offered can be read."""

from __future__ import annotations

import random

import pytest

from helpers import WriteTable
from thoroughness import some
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError
from yardcut.core.expressions.frame import source_scope
from yardcut.core.language.helping.completing_lines import Frequent
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.explaining.mends_offered import mended

RIGHT = [
    "keep species = 'oak' AND (grade IN ('A', 'B') OR price >= 1.5)", "drop NOT felled BETWEEN DATE '2031-01-02' AND DATE '2031-02-03'",
    "make net = price * 0.9, tall = CASE WHEN price > 3 THEN 'yes' ELSE 'no' END", "order felled DESC NULLS FIRST, species IGNORING CASE",
    "draw stratified 50 per species, grade at least 2 each seed 7", "draw top 5 by price, grade DESC per species with ties",
    "columns species AS wood, price, /^g/ without felled", "keep species LIKE 'o%' AND price IS NOT NULL AND LOWER(grade) <> 'c'",
    "draw part 2 of 60, 20, 20 percent seed 3", "save 'out.csv' replace",
]  # fmt: skip
WRONG = [
    "==",
    "!",
    "=>",
    ";",
    "&&",
    "||",
    "(",
    ")",
    "'",
    '"',
    ",",
    "where",
    "select",
    "limit",
    "not",
    "and",
    "%",
    "~",
    "\t",
    "’",
    "—",
    "true",
    "7",
    "0x1",
]


def broken(chance: random.Random, line: str) -> str:
    for _ in range(chance.randint(1, 3)):
        words = line.split(" ")
        at = chance.randrange(len(words))
        letter = chance.randrange(max(1, len(line)))
        match chance.randrange(7):
            case 0:
                del words[at]
            case 1:
                words.insert(at, chance.choice(WRONG))
            case 2:
                words[at] = words[at][::-1]
            case 3:
                words[at : at + 2] = words[at : at + 2][::-1]
            case 4:
                words = [line[:letter] + line[letter + 1 :]]
            case 5:
                words = [line[:letter] + chance.choice(WRONG) + line[letter:]]
            case _:
                words[at] = words[at].swapcase()
        line = " ".join(words)
    return line


@pytest.mark.parametrize("seed", some(range(50), 12))
def test_a_line_broken_at_random(table_of: WriteTable, seed: int) -> None:
    chance = random.Random(seed)
    table = table_of(["species", "grade", "price", "felled"], [["oak", "A", 1.5, "2031-01-03"], ["ash", "B", "", ""]])
    scope = source_scope(table)
    for right in RIGHT:
        line = broken(chance, right)
        bound = bind_cut(Cut("", (Line(line),)), table, default_seed=1)[0]
        error = bound.error
        if error is None:
            parse_statement(line)
            continue
        assert len(error.message) > 8, line
        assert "Traceback" not in error.message
        assert 0 <= error.start <= error.end <= len(line) + 1, line
        text, applied = mended(line, scope, lambda column: Frequent())
        if applied:
            try:
                parse_statement(text)
            except ListError as still:
                assert still.message != error.message or text != line, line
