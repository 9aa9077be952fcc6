"""Every production of the grammar is tried: by lines of each form, by the systematic ones and by random ones."""

from __future__ import annotations

import re
from collections import Counter
from typing import Any

from lark import Lark

from reference import systematic
from reference.generating import Generator
from yardcut.core.language.syntax import grammars


class Productions:
    """Counts which productions of the grammar lines were read by, and which symbol stood under which."""

    def __init__(self) -> None:
        self._lark = Lark(grammars.grammar_text(), parser="lalr", start="statement", maybe_placeholders=False)
        parser = self._lark.parser.parser.parser  # type: ignore[attr-defined]
        self.rules = list(parser.callbacks)
        self.used: Counter[Any] = Counter()
        for rule in self.rules:
            parser.callbacks[rule] = self._counting(rule)

    def _counting(self, rule: Any) -> Any:
        def reduced(children: list[Any]) -> str:
            self.used[rule] += 1
            return str(rule.origin.name)

        return reduced

    def read(self, line: str) -> None:
        self._lark.parse(line)

    def unused(self) -> list[str]:
        return sorted(
            f"{rule.origin.name} → {' '.join(each.name for each in rule.expansion)}"
            for rule in self.rules
            if not self.used[rule]
        )


EVERY_FORM = [
    "keep a AND b AND c OR d OR e",
    "make x = a || b || c, y = CASE WHEN a THEN b END", "make x = a * b * c % d / e, y = - + - a, z = a + b - c + d", "keep a IS NULL IS FALSE IS NOT TRUE", "keep a IS NOT NULL IS NOT UNKNOWN",
    "keep a IS TRUE IS NULL IS NOT NULL IS NOT TRUE IS FALSE", "keep a IS TRUE IS DISTINCT FROM b IS NOT DISTINCT FROM c", "keep a IN (1) IGNORING CASE OR a NOT IN (1) OR a NOT IN (1) IGNORING CASE",
    "keep a LIKE 'x' ESCAPE '!' IGNORING CASE OR a NOT LIKE 'x' ESCAPE '!' IGNORING CASE", "columns a AS \"b c\"", "draw part 1 of 100 percent", "save \"a.csv\"", "save 'a.csv' replace",
    "order a IN SEQUENCE ('x')", "draw stratified per a shares 'x' 5 percent", "draw stratified per a sizes 'x' 5", "order off a DESC", "make x = CASE a WHEN b THEN c END", "make x = a * b * c / d / e % f % g * h + i - j - k",
    "save 'a.csv'", "save \"a.x\" as csv delimiter ';' decimal ',' quote '|' encoding 'cp1252' missing 'NA' header no quoting all line ends crlf guard formulas replace with list",
    "save \"a.csv\" header yes quoting needed line ends lf one file per 10 rows", "save \"a.csv\" quoting texts one file per species", "save \"a.csv\" one file per species, grade", "from \"a\"", "from 'a'",
    "save \"a.parquet\" compression 'zstd' row groups of 100", "save \"a.xlsx\" table 'x'", "make \"Max T\" = :best", "columns /_on$/, :which, off /x/, off #1..#2, off kind text, off all, off *_x",
    "draw first :n percent", "draw every :n from :m", "draw rows :a to :b", "draw chance 1 in :n seed :s", "draw chance :p percent", "draw stratified :n per x sizes ('a', 1) :k, (NULL, 'b') 2 percent",
    "draw part :k of 50, 50 percent", "keep x IN (:woods) AND y LIKE :p ESCAPE '!'", "order off (x) DESC, off #1, off \"y\"", "keep a LIKE_REGEX :p", "off order at random", "off from 'x'",
    "columns all without a..b, kind number", "keep ANY OF (a without b) = 1", "make x = SUM OF (all without a)", "make x = TRIM(BOTH FROM y), z = TRIM(U&'\\0041' FROM y)", "make x = SUBSTRING(a, 1, 2)",
    "draw top 5 by x IN SEQUENCE ('a', 'b') per y split ties", "draw random 5 with replacement weighted by x seed 2 remainder", "keep off (a = 1) OR off (NOT b)", "order x ASC NULLS LAST IGNORING CASE",
    "keep x IS NOT DISTINCT FROM y IS UNKNOWN", "draw random 5 equal", "make x = CAST(a = 1 OR NOT b AS text), y = COUNT(*), z = CASE WHEN a THEN b OR c ELSE NOT d END",
    "tally COUNT(*)", "tally COUNT(*) AS n, SUM(x) AS \"a b\" per y", "tally SUM(x) FILTER (WHERE a = 1) AS s per y AS z, EXTRACT(MONTH FROM d) AS \"m\"", "off tally COUNT(DISTINCT x) per y along z",
    "tally COUNT(DISTINCT x) FILTER (WHERE a OR b) along z IN SEQUENCE ('a', 'b')", "tally (a = 1 AND b IS NULL) per y", "tally COUNT(*) per (x)", "tally SUM(x) per y along off (z)",
    "keep a > AVG(b) PER c", "keep a > SUM(b) FILTER (WHERE d) PER (c, e + 1)", "make x = COUNT(DISTINCT a) PER c, y = MAX(a) PER UPPER(c), z = -AVG(a) PER (c) * 2", "keep a = SUM(b) PER \"c\" OR a = SUM(b) PER #1",
    "keep a > COUNT(DISTINCT b) FILTER (WHERE c) PER d",
    "keep a IN (" + "1, " * 60 + "-2.5)", "keep a NOT IN (" + "'x', " * 60 + "'y') IGNORING CASE OR a NOT IN (" + "1, " * 60 + "2) OR a IN (" + "1, " * 60 + "2) IGNORING CASE", 'keep a IN "x.csv"', 'keep a NOT IN "x.csv" column b IGNORING CASE OR a IN mills IGNORING CASE', "keep a IN cut 'x' column #1 AND a NOT IN cut \"x\" IGNORING CASE", 'keep (a, b, c) NOT IN "x.csv" column (d, e, f) IGNORING CASE',
    'keep (a, b) IN "x.csv" column (d, e)', 'keep (a, b) IN "x.csv" column (d, e) IGNORING CASE OR (a, b) NOT IN mills column (d, e)', 'keep a NOT IN "x.csv" column (b, c, d)', 'keep a IN "x.csv" column (b, c, d) OR a IN "x.csv" column (b, c, d) IGNORING CASE',
    'keep (a, b) NOT IN "x.csv" IS NULL', 'keep a IN "x.csv" column b OR a IN "x.csv" column b IGNORING CASE OR a NOT IN "x.csv" column b', 'keep (a + b, c * d / e) IN mills IS NOT FALSE',
    'bring all from "x.csv" by a', "bring a AS b, \"c d\" from cut 'x' by a = b, UPPER(c) = d, e", 'bring #1 from mills by a, b, latest c <= d matched only', 'bring a from mills by b = c, latest d <= e + f unmatched only first match',
    'bring a, b, c from "x" by a every match', 'off bring all from mills by a, latest b <= c matched only every match', 'bring a from mills by b, c = d, latest e <= f', 'bring a from mills by b, latest e <= f',
    'bring a, b AS c from "x" by a matched only first match', "bring a from 'x.csv' by b", 'bring all from "x" by a, b, latest c <= d every match',
]  # fmt: skip


BARE_FORMS = [
    "draw from a BETWEEN 1 AND 2 to a NOT BETWEEN SYMMETRIC 1 AND 2 per b", "draw from a BETWEEN ASYMMETRIC 1 AND 2 to a NOT BETWEEN ASYMMETRIC 1 AND 2 per b",
    "draw from a BETWEEN SYMMETRIC 1 AND 2 to NOT a NOT BETWEEN 1 AND 2 per b", "draw from a <> 1 IGNORING CASE to a = 1 IGNORING CASE per b", "draw from a <> 1 to a = 1 per b", "draw top 3 by off a, off (b) DESC per c",
    "draw from a CONTAINS b to a NOT CONTAINS b per c", "draw from a STARTS WITH b IGNORING CASE to a NOT ENDS WITH b IGNORING CASE per c", "draw from a ENDS WITH b to a NOT STARTS WITH b per c",
    "draw from a NOT CONTAINS b IGNORING CASE to a CONTAINS b IGNORING CASE per c", "draw from a ENDS WITH b IGNORING CASE to a STARTS WITH b per c", "draw from a NOT STARTS WITH b IGNORING CASE to a NOT ENDS WITH b per c",
    "draw from a LIKE b ESCAPE '!' to a NOT LIKE b ESCAPE '!' per c", "draw from a LIKE b IGNORING CASE to a NOT LIKE b IGNORING CASE per c", "draw from a LIKE b to a NOT LIKE b per c",
    "draw top 3 by a % b, c / d, off e DESC, f per g, h, i", "draw top 3 by a * b % c / d % e / f, off g ASC per h", "draw from a IS FALSE to a IS NOT FALSE per b", "draw from a IS NOT TRUE to a IS NOT UNKNOWN per b",
    "draw from a IS UNKNOWN to a IS NULL IS NOT FALSE per b", "draw from a IS DISTINCT FROM b to a IS NULL IS TRUE per b",
    "tally COUNT(*), SUM(a), MIN(b)", "tally COUNT(*), SUM(a), MIN(b) along c", "tally COUNT(*), SUM(a), MIN(b) per c, d, e along f", "tally SUM(a) per c, d, e",
]  # fmt: skip


def test_every_production_of_the_grammar_is_tried() -> None:
    productions = Productions()
    for line in EVERY_FORM:
        productions.read(line)
        verb, _, rest = line.partition(" ")
        if verb == "keep" and " PER " not in rest:  # the same without a "per" of its own
            productions.read(f"draw from {rest} to {rest}")
        elif verb == "make" and " PER " not in rest:
            for value in re.split(r", (?=\w+ = )", rest):
                productions.read(f"draw top 3 by {value.partition(' = ')[2]} DESC, a per b")
    for line in BARE_FORMS:
        productions.read(line)
    for seed in range(400):
        generator = Generator(seed)
        for _ in range(3):
            productions.read(generator.line())
    for line in systematic.lines(whole=False):
        productions.read(line)
    assert productions.unused() == []
