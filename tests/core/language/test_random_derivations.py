"""The grammar walked at random: whatever it derives is read, printed and read again as the same, and bound or refused."""

from __future__ import annotations

import random
import re
from collections.abc import Iterable, Iterator
from functools import cache
from typing import Any

import pytest
from lark import Lark

from helpers import YARD_SCOPE
from thoroughness import IS_LONG
from yardcut.core.errors import ListError
from yardcut.core.language.lines import statement_text
from yardcut.core.language.syntax import grammars
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.run.executing.bound_lines import bind_line

NAMES = ["species", "grade", "length_mm", "price_per_m3", "felled_on", "kiln_in", "reserved", "moisture_d01"]
SAMPLES = {
    "NAME": [*NAMES, "NUMBER", "zstd", "DAY", "YEAR", "csv"], "QUOTED": ['"invoice no"', '"species"'], "HASH": ["#1", "#-2"], "PATTERN": ["moisture_*", "*_on"], "REGEX": ["/_on$/"],
    "NUMBER": ["1", "2.5", "7", "50"], "TEXT": ["'oak'", "'2031-03-01'", "'2031-03-01 14:00:00'", "'7'", "'o%'", "';'", "''"], "DIAL": [":best"],
    "FUNCTION": ["ABS", "ROUND", "GREATEST", "COALESCE", "UPPER", "SUM", "QUANTILE", "REPEATED", "DATE_FROM", "ln"], "COMPARE": ["<>", "!=", "<=", ">"], "COUNT_DISTINCT": ["COUNT(DISTINCT"], "LITERALS": ["1, " * 60 + "2", "'oak', " * 60 + "'ash'"],
}  # fmt: skip


class Walker:
    """Derives lines from the grammar."""

    def __init__(self) -> None:
        lark = Lark(grammars.grammar_text(), parser="lalr", start="statement", maybe_placeholders=False)
        self.rules: dict[str, list[Any]] = {}
        for rule in lark.rules:
            self.rules.setdefault(rule.origin.name, []).append(rule.expansion)
        self.words = {terminal.name: terminal.pattern for terminal in lark.terminals}
        self.depth = dict.fromkeys(self.rules, 999)
        for _ in range(40):  # how deep the shallowest derivation of each is
            for name, expansions in self.rules.items():
                self.depth[name] = min(self._depth_of(expansion) for expansion in expansions)

    def _depth_of(self, expansion: Any) -> int:
        return 1 + max((self.depth[each.name] for each in expansion if not each.is_term), default=0)

    def line(self, chance: random.Random) -> str:
        return " ".join(self._walk("statement", chance, 22))

    def _walk(self, name: str, chance: random.Random, most: int) -> list[str]:
        expansions = [each for each in self.rules[name] if self._depth_of(each) <= most]
        expansions = expansions or [min(self.rules[name], key=self._depth_of)]
        found: list[str] = []
        for symbol in chance.choice(expansions):
            found += [self._word(symbol.name, chance)] if symbol.is_term else self._walk(symbol.name, chance, most - 1)
        return found

    def pairs(self) -> Iterator[tuple[Any, int, Any]]:
        """Yield every production, each place of it where another stands, and each that may stand there."""
        for name, expansions in self.rules.items():
            if name in self.depth and self._way_to(name) is not None:
                for expansion in expansions:
                    for place, symbol in enumerate(expansion):
                        for below in () if symbol.is_term else self.rules[symbol.name]:
                            yield (name, expansion), place, below

    def line_with(self, above: Any, place: int, below: Any, chance: random.Random) -> str:
        """Derive the shortest line in which a production stands in a place of another."""
        name, expansion = above
        words = self._filled(expansion, place, self._filled(below, -1, [], chance), chance)
        for outer, outer_place in self._way_to(name) or []:
            words = self._filled(outer, outer_place, words, chance)
        return " ".join(words)

    def _filled(self, expansion: Any, place: int, words: list[str], chance: random.Random) -> list[str]:
        found: list[str] = []
        for number, symbol in enumerate(expansion):
            if number == place:
                found += words
            else:
                found += [self._word(symbol.name, chance)] if symbol.is_term else self._walk(symbol.name, chance, 0)
        return found

    @cache  # noqa: B019 - there is one walker
    def _way_to(self, name: str) -> list[tuple[Any, int]] | None:
        """Return the productions and places that lead from a symbol up to the whole line, the nearest first."""
        ways: dict[str, list[tuple[Any, int]]] = {"statement": []}
        waiting = ["statement"]
        while waiting and name not in ways:
            above = waiting.pop(0)
            for expansion in sorted(self.rules[above], key=len):  # with no clause that need not be
                for place, symbol in enumerate(expansion):
                    if not symbol.is_term and symbol.name not in ways:
                        ways[symbol.name] = [(expansion, place), *ways[above]]
                        waiting.append(symbol.name)
        return ways.get(name)

    def _word(self, name: str, chance: random.Random) -> str:
        if name in SAMPLES:
            return chance.choice(SAMPLES[name])
        pattern = self.words[name]
        if pattern.type == "str":
            return str(pattern.value)
        return re.sub(r"\(\?[=!].*", "", pattern.value).replace(r"\s+", " ").split("|")[0].strip("(")


def read_and_bound(lines: Iterable[str]) -> tuple[int, int]:
    """Return how many lines are read, and of those bound; the others are refused for what they mean, with a sentence."""
    read = bound = 0
    for line in lines:
        try:
            statement = parse_statement(line)
        except ListError as error:  # a clause stands twice, a word of a function is none
            assert str(error), line
            continue
        read += 1
        text = statement_text(statement)
        assert statement_text(parse_statement(text)) == text, line
        try:
            bind_line(text, YARD_SCOPE)
        except ListError as error:
            assert error.message, line
        else:
            bound += 1
    return read, bound


def test_what_the_grammar_derives_is_read_printed_and_bound_or_refused() -> None:
    walker = Walker()
    read, bound = read_and_bound(walker.line(random.Random(seed)) for seed in range(6000 if IS_LONG else 80))
    assert read > (1500 if IS_LONG else 17)
    assert bound > (90 if IS_LONG else 1)


@pytest.mark.long
def test_every_production_in_every_place_is_read_printed_and_bound_or_refused() -> None:
    walker = Walker()
    lines = [
        walker.line_with(above, place, below, random.Random(number)).removeprefix("off ")
        for number, (above, place, below) in list(enumerate(walker.pairs()))[:: 1 if IS_LONG else 10]
    ]
    read, bound = read_and_bound(lines)
    assert read > 0.8 * len(lines) > 125
    assert bound > 15
