"""Random lines of the language: every form, with every kind where it may stand, of literals, columns and computed values."""

from __future__ import annotations

import datetime as dt
import random
from collections.abc import Callable
from typing import Any

COLUMNS = {
    "id": "integer", "word": "text", "code": "text", "Odd Name": "text", "whole": "integer", "small": "integer",
    "real": "number", "price": "number", "day": "date", "later": "date", "at": "timestamp", "clock": "time",
    "flag": "boolean",
}  # fmt: skip
KINDS = tuple(dict.fromkeys(COLUMNS.values()))
WORDS = ["oak", "Oak", "oak ", "ash", "yew", "end shake", "a%b", "a_b", "É", "é", "it's", ""]
CODES = ["R2", "R10", "r10", "R010", "x", "N-4", "N-12a", "10", "9"]
WHOLES = [-7, -2, 0, 1, 2, 3, 5, 12, 2**53 + 1, 2**53, -(2**62), 2**62]
REALS = [-1.5, -0.1, 0.0, 0.1, 0.3, 2.0, 2.5, 2.675, 1e16, 1e300, -7.25, 100.0, 3.0]
PRICES = [1.1, 2.2, 3.3, 3.3, 4.45, 10.05, 99.99, 0.1, 0.7]
DAYS = ["2031-03-01", "2031-03-02", "2030-12-31", "2028-02-29", "2031-01-31", "1999-07-04"]
MOMENTS = ["2031-03-01 00:00:00", "2031-03-01 14:05:30", "2030-12-31 23:59:59", "2031-01-31 06:00:00"]
CLOCKS = ["00:00:00", "14:05:00", "23:59:59", "06:30:15"]
MISSING = 0.2


def make_rows(count: int, seed: int) -> list[dict[str, Any]]:
    """Return rows with few different values, so that comparisons hit and rows tie; every column but one has gaps."""
    chance = random.Random(seed)
    pools: dict[str, list[Any]] = {
        "word": WORDS[:-1], "code": CODES, "Odd Name": ["a", "b", "B", "b "], "whole": WHOLES, "small": [0, 1, 2, 3, 4],
        "real": REALS, "price": PRICES, "day": list(map(dt.date.fromisoformat, DAYS)),
        "later": list(map(dt.date.fromisoformat, DAYS)), "at": list(map(dt.datetime.fromisoformat, MOMENTS)),
        "clock": list(map(dt.time.fromisoformat, CLOCKS)), "flag": [True, False],
    }  # fmt: skip
    rows = []
    for number in range(count):
        row: dict[str, Any] = {"id": number}
        for name, pool in pools.items():
            row[name] = None if chance.random() < MISSING else chance.choice(pool)
        rows.append(row)
    return rows


class Generator:
    """Makes lines from a seed. ``columns`` are those that stand now, by kind."""

    def __init__(self, seed: int) -> None:
        self.chance = random.Random(seed)
        self.columns = dict(COLUMNS)
        self.wholes = True
        self.made = 0
        self.narrowed = False

    def pick(self, *choices: Any) -> Any:
        return self.chance.choice(choices)

    def maybe(self, share: float = 0.3) -> bool:
        return self.chance.random() < share

    # values

    def value(self, kind: str, depth: int = 2) -> str:
        """Return a value of a kind."""
        makers = self._simple(kind)
        if depth > 0:
            makers = [*makers, *self._computed(kind, depth - 1)]
        return str(self.chance.choice(makers)())

    def name(self, kind: str) -> str:
        """Return a column of a kind."""
        return quoted(self.chance.choice([name for name, each in self.columns.items() if each == kind]))

    def literal(self, kind: str) -> str:
        """Return a literal of a kind."""
        match kind:
            case "integer":
                return str(self.pick(0, 1, 2, 3, 5, 12, 7, 2**53 + 1, -2, -7))
            case "number":
                return str(self.pick("0.1", ".5", "2.5", "2.675", "1.5e3", "1e16", "-0.3", "100.0", "3.3"))
            case "text":
                return text_of(self.pick(*WORDS, *CODES, "o", "a", "k", "1"))
            case "boolean":
                return str(self.pick("TRUE", "FALSE"))
            case "date":
                return f"DATE {text_of(self.pick(*DAYS))}"
            case "timestamp":
                return f"TIMESTAMP {text_of(self.pick(*MOMENTS))}"
        return f"TIME {text_of(self.pick(*CLOCKS))}"

    def beside(self, kind: str, depth: int) -> str:
        """Return what may stand beside a value of a kind: days may be plain texts, numbers of either kind."""
        if kind == "date" and self.maybe(0.3):
            return str(text_of(self.pick(*DAYS)))
        if kind == "timestamp" and self.maybe(0.3):
            return str(text_of(self.pick(*MOMENTS)))
        if kind == "time" and self.maybe(0.3):
            return str(text_of(self.pick(*CLOCKS)))
        if kind in ("date", "timestamp") and self.maybe(0.2):
            return self.value("date" if kind == "timestamp" else "timestamp", depth)
        if kind in ("integer", "number"):
            return self.value(self.pick("integer", "number"), depth)
        return self.value(kind, depth)

    def _simple(self, kind: str) -> list[Callable[[], str]]:
        found = [lambda: self.name(kind), lambda: self.name(kind), lambda: self.literal(kind)]
        if kind == "integer":
            found.append(lambda: "SOURCE_ROW")
        if kind == "date":
            found.append(lambda: "CURRENT_DATE")
        return found

    def _computed(self, kind: str, d: int) -> list[Callable[[], str]]:
        v, o, pick = self.value, self.operand, self.pick

        def number() -> str:
            return o(str(pick("integer", "number")), d)

        def day() -> str:
            return v(str(pick("date", "timestamp")), d)

        found: list[Callable[[], str]] = [
            lambda: f"({v(kind, d)})",
            lambda: f"COALESCE({v(kind, d)}, {v(kind, d)})",
            lambda: f"COALESCE({v(kind, d)}, NULL, {self.literal(kind)})",
            lambda: f"NULLIF({v(kind, d)}, {v(kind, d)})",
            lambda: f"CASE WHEN {self.condition(d)} THEN {v(kind, d)} ELSE {pick('NULL', v(kind, d))} END",
            lambda: (
                f"CASE {self.name('text')} WHEN {self.literal('text')} THEN {v(kind, d)} WHEN 'ash' THEN {v(kind, d)} END"
            ),
        ]
        if kind != "boolean":
            found += [lambda: f"{pick('GREATEST', 'LEAST')}({v(kind, d)}, {v(kind, d)})",
                      lambda: f"{pick('MIN', 'MAX')} OF ({self.columns_of(kind)})"]  # fmt: skip
            if self.wholes:
                found.append(lambda: self._whole(pick("MIN", "MAX"), kind))
        match kind:
            case "integer":
                found += [
                    lambda: f"{o('integer', d)} {pick('+', '-', '*')} {o('integer', d)}",
                    lambda: f"{o('integer', d)} % {o('integer', d)}", lambda: f"MOD({v('integer', d)}, {v('integer', d)})",
                    lambda: f"-{self.name('integer')}", lambda: f"+{v('integer', 0)}",
                    lambda: f"{pick('ABS', 'CEILING', 'FLOOR')}({v('integer', d)})",
                    lambda: f"ROUND({v('integer', d)}, {pick('-1', '-2', '1', self.name('integer'))})",
                    lambda: f"CHAR_LENGTH({v('text', d)})", lambda: f"POSITION({v('text', 0)} IN {v('text', d)})",
                    lambda: f"EXTRACT({pick('YEAR', 'QUARTER', 'MONTH', 'WEEK', 'DAY', 'WEEKDAY')} FROM {day()})",
                    lambda: f"EXTRACT({pick('HOUR', 'MINUTE')} FROM {v(pick('timestamp', 'time'), d)})",
                    lambda: f"{o('date', d)} - {o('date', d)}",
                    lambda: f"CAST({pick(number(), v('text', d))} AS integer)",
                    lambda: f"SUM OF ({self.columns_of('integer')})", lambda: f"COUNT OF ({self.list()})",
                ]  # fmt: skip
                if self.wholes:
                    found += [lambda: "COUNT(*)", lambda: self._whole("COUNT", pick(*KINDS)),
                              lambda: self._whole("SUM", "integer")]  # fmt: skip
            case "number":
                found += [
                    lambda: f"{o('number', d)} {pick('+', '-', '*')} {number()}", lambda: f"{number()} / {number()}",
                    lambda: f"{number()} % {o('number', d)}", lambda: f"-({v('number', 0)})",
                    lambda: f"{pick('ABS', 'CEILING', 'FLOOR')}({v('number', d)})",
                    lambda: f"ROUND({v('number', d)}{pick('', ', 2', ', 0', ', -1', ', 30', ', -30')})",
                    lambda: f"{pick('SQRT', 'LN', 'LOG10', 'EXP')}({number()})", lambda: f"POWER({number()}, {pick('2', '0.5', '-1', '3')})",
                    lambda: f"{pick('AVG', 'SUM')} OF ({self.columns_of('number')}, {self.columns_of('integer')})",
                    lambda: f"EXTRACT(SECOND FROM {v(pick('timestamp', 'time'), d)})",
                    lambda: f"{o('timestamp', d)} - {o(pick('date', 'timestamp'), d)}", lambda: f"CAST({pick(v('integer', d), v('text', d))} AS number)",
                ]  # fmt: skip
                if self.wholes:
                    found += [lambda: self._whole(pick("SUM", "AVG"), "number"), lambda: self._whole("AVG", "integer"),
                              lambda: f"QUANTILE({self._inside(pick('integer', 'number'))}, {pick('0', '0.5', '0.95', '1')})"]  # fmt: skip
            case "text":
                found += [
                    lambda: f"{v('text', d)} || {v('text', d)}", lambda: f"{pick('UPPER', 'LOWER')}({v('text', d)})",
                    lambda: f"TRIM({v('text', d)})", lambda: f"TRIM({pick('LEADING', 'TRAILING', 'BOTH')} {pick(chr(39) + 'o' + chr(39), '')} FROM {v('text', d)})",
                    lambda: f"TRIM({text_of('R')} FROM {v('text', d)})",
                    lambda: f"SUBSTRING({v('text', d)} FROM {pick('1', '2', '-1', v('integer', 0))}{pick('', ' FOR 2', ' FOR 0')})",
                    lambda: f"SUBSTRING({v('text', d)}, {pick('1', '3')}{pick('', ', 1')})",
                    lambda: f"CAST({v(pick('integer', 'date', 'timestamp', 'time', 'boolean', 'text'), d)} AS text)",
                ]  # fmt: skip
            case "date":
                found += [
                    lambda: f"{o('date', d)} {pick('+', '-')} INTERVAL '{pick(1, 7, 40)}' {pick('DAY', 'MONTH', 'YEAR')}",
                    lambda: f"DATE_FROM({pick('2031', v('integer', 0))}, {pick('2', '12', v('integer', 0))}, {pick('29', '1', v('integer', 0))})",
                    lambda: f"CAST({pick(v('timestamp', d), v('text', 0), text_of('2031-02-03'))} AS date)",
                ]  # fmt: skip
                if self.wholes:
                    found.append(lambda: f"QUANTILE({self._inside('date')}, {pick('0', '0.5', '1')})")
            case "timestamp":
                found += [
                    lambda: (
                        f"{o('timestamp', d)} {pick('+', '-')} INTERVAL '{pick(1, 5)}' {pick('DAY', 'HOUR', 'MINUTE', 'SECOND', 'MONTH')}"
                    ),
                    lambda: f"CAST({v('date', d)} AS timestamp)",
                ]
            case "time":
                found += [lambda: f"{o('time', d)} {pick('+', '-')} INTERVAL '{pick(1, 30)}' {pick('HOUR', 'MINUTE', 'SECOND')}",
                          lambda: f"CAST({text_of(pick(*CLOCKS))} AS time)"]  # fmt: skip
            case "boolean":
                found += [
                    lambda: f"({self.condition(d)})",
                    lambda: f"CAST({pick(text_of('TRUE'), text_of('no'))} AS boolean)",
                ]
                if self.wholes:
                    found.append(
                        lambda: f"REPEATED({self.name(pick('text', 'integer'))}{pick('', ', ' + self.name('date'))})"
                    )
        return found

    def _inside(self, kind: str) -> str:
        """Return a value without values of all rows in it: they do not stand within each other."""
        before, self.wholes = self.wholes, False
        found = self.value(kind, 1)
        self.wholes = before
        return found

    def _whole(self, function: str, kind: str) -> str:
        return f"{function}({self._inside(kind)})"

    def operand(self, kind: str, depth: int) -> str:
        """Return a value as a side of an operation; a difference, which may be of days, in brackets."""
        found = self.value(kind, depth)
        return (
            f"({found})" if " - " in found or "INTERVAL" in found or found.startswith("-") or self.maybe(0.2) else found
        )

    def columns_of(self, kind: str) -> str:
        """Return a list of columns of one kind."""
        some = [name for name, each in self.columns.items() if each == kind]
        return ", ".join(map(quoted, self.chance.sample(some, self.chance.randint(1, len(some)))))

    # conditions

    def condition(self, depth: int = 2) -> str:
        """Return a condition."""
        if depth > 0 and self.maybe(0.5):
            d = depth - 1
            return str(self.pick(
                lambda: f"{self._side(d)} AND {self._side(d)}", lambda: f"{self._side(d)} OR {self._side(d)}",
                lambda: f"NOT {self._side(d)}", lambda: f"({self.condition(d)}) IS {self.pick('', 'NOT ')}{self.pick('TRUE', 'FALSE', 'UNKNOWN')}",
                lambda: f"{self._side(d)} AND off ({self.condition(d)})", lambda: f"{self._side(d)} OR {self._side(d)} AND {self._side(d)}",
                lambda: f"{self.piece(d)} IS {self.pick('', 'NOT ')}{self.pick('TRUE', 'FALSE', 'UNKNOWN')}",
            )())  # fmt: skip
        return self.piece(depth)

    def _side(self, depth: int) -> str:
        return f"({self.condition(depth)})" if self.maybe() else self.piece(depth)

    def piece(self, depth: int) -> str:
        """Return one test."""
        kind = self.pick(*KINDS)
        v, pick, d = self.value, self.pick, max(0, depth - 1)
        turned = pick("", "", "NOT ")
        tests: list[Callable[[], str]] = [
            lambda: f"{v(kind, d)} {pick('=', '<>', '!=', '<', '<=', '>', '>=')} {self.beside(kind, d)}",
            lambda: f"{self.beside(kind, d)} {pick('=', '<', '>=')} {self.name(kind)}",
            lambda: f"{v(kind, d)} {turned}BETWEEN {pick('', 'SYMMETRIC ', 'ASYMMETRIC ')}{self.beside(kind, d)} AND {self.beside(kind, d)}",
            lambda: f"{v(kind, d)} {turned}IN ({self.beside(kind, 0)}, {self.literal(kind)}{pick('', ', ' + self.beside(kind, d))})",
            lambda: f"{v('text', d)} {turned}IN ({self.literal('text')}, {self.literal('text')}) IGNORING CASE",
            lambda: f"{v('text', d)} {pick('=', '<>')} {v('text', d)} IGNORING CASE",
            lambda: f"{v('text', d)} {turned}LIKE {pick(text_of('%a%'), text_of('_ak%'), text_of('o%'), text_of('%k '), v('text', d))}{pick('', ' IGNORING CASE')}",
            lambda: f"{v('text', d)} {turned}LIKE '%!%%' ESCAPE '!'",
            lambda: f"{v('text', d)} {turned}LIKE_REGEX {pick(text_of('^o'), text_of('[0-9]+'), text_of('k$'), text_of('a.b'))}{pick('', ' FLAG ' + text_of('i'))}",
            lambda: f"{v('text', d)} {turned}{pick('CONTAINS', 'STARTS WITH', 'ENDS WITH')} {v('text', d)}{pick('', ' IGNORING CASE')}",
            lambda: f"{v(pick(*KINDS), d)} IS {pick('', 'NOT ')}NULL",
            lambda: f"{v(kind, d)} IS {pick('', 'NOT ')}DISTINCT FROM {self.beside(kind, d)}",
            lambda: f"{self.name('boolean')} IS {pick('', 'NOT ')}{pick('TRUE', 'FALSE', 'UNKNOWN')}",
            lambda: v("boolean", d), lambda: self._quantified(d),
        ]  # fmt: skip
        return str(self.chance.choice(tests)())

    def _quantified(self, d: int) -> str:
        some, pick = f"{self.pick('ANY', 'ALL')} OF ({self.list()})", self.pick
        kind = pick("integer", "number", "text", "date", "boolean")
        return str(pick(
            f"{some} {pick('=', '<>', '>', '<=')} {self.value(kind, 0) if kind != 'date' else self.literal(kind)}", f"{some} IS {pick('', 'NOT ')}NULL",
            f"{some} {pick('', 'NOT ')}CONTAINS {self.literal('text')}{pick('', ' IGNORING CASE')}",
            f"{some} {pick('', 'NOT ')}IN ({self.literal(kind)}, {self.literal(kind)})",
            f"{some} {pick('', 'NOT ')}BETWEEN {self.literal(kind)} AND {self.literal(kind)}", f"{some} LIKE '%1%'",
        ))  # fmt: skip

    # columns

    def list(self) -> str:
        """Return a list of columns in which every kind has one."""
        return str(self.pick("all", "id, word, real, day, flag", "all without word", "id..word" if self.narrowed else "id..flag", "kind integer, kind number, word, day, flag",
                             "*, word", "#1..#-1", "kind text, w*, id, day, flag, price"))  # fmt: skip

    # lines

    def line(self) -> str:
        """Return a line."""
        return str(self.pick(self.keep, self.keep, self.make, self.order, self.draw, self.draw, self.columns_line)())

    def keep(self) -> str:
        """Return a keep or drop line."""
        return f"{self.pick('', '', '', '', 'off ')}{self.pick('keep', 'drop')} {self.condition(3)}"

    def make(self) -> str:
        """Return a make line, and know its columns from now on."""
        found = []
        fresh: dict[str, str] = {}
        for _ in range(self.pick(1, 1, 2)):
            kind = self.pick(*KINDS)
            self.made += 1
            name = (
                f"made_{self.made}"
                if self.maybe(0.7)
                else self.pick("price", "real")
                if kind == "number"
                else f"new_{self.made}"
            )
            if name in fresh:
                continue
            found.append(f"{name} = {self.condition(2) if kind == 'boolean' else self.value(kind, 3)}")
            fresh[name] = kind
        self.columns |= fresh
        return f"make {', '.join(found)}"

    def key(self, bare: bool = False) -> str:
        """Return a sort key."""
        kind = self.pick(*KINDS)
        ways = [] if bare else [self.pick("ASC", "DESC")] if self.maybe(0.5) else []
        ways += [f"NULLS {self.pick('FIRST', 'LAST')}"] if self.maybe(0.3) and not bare else []
        if kind == "text":
            ways += self.pick(
                [],
                ["IGNORING CASE"],
                ["NUMBER AWARE"],
                ["NUMBER AWARE", "IGNORING CASE"],
                ["IN SEQUENCE ('oak', 'ash', 'R2')"],
            )
        self.chance.shuffle(ways)
        value = self.value(kind, 1)
        return " ".join([f"({value})" if kind == "boolean" else value, *ways])

    def order(self) -> str:
        """Return an order line."""
        keys = [self.key() for _ in range(self.pick(1, 2, 3))]
        if self.maybe(0.15):
            keys.append(f"off {self.name('integer')}")
        return str(
            self.pick(f"order {', '.join(keys)}", f"order {', '.join(keys)}", "order as read", "order at random seed 5")
        )

    def draw(self) -> str:
        """Return a draw line."""
        pick = self.pick
        count = pick("0", "1", "3", "7", "20", "500", "5 percent", "33.3 percent", "100 percent")
        seed = f" seed {pick(0, 1, 7, 12345)}"
        per = pick(
            "",
            "",
            f" per {self.name('text')}",
            f" per {self.name('text')}, {self.name('boolean')}",
            f" per {self.value('integer', 1)}",
        )
        named = f"per word {pick('sizes', 'shares')} 'oak' {{0}}, NULL {{0}}{pick('', ', others {0}')}"
        amount = pick("2", "1") if "sizes" in named else "50 percent"
        forms = [
            f"first {count}{per}", f"last {count}{per}", f"every {pick(1, 2, 5)}{pick('', ' from 3')}{per}", f"rows {pick('2 to 6', '1 to 1', '5 to 900')}{per}",
            f"{pick('top', 'bottom')} {count} by {self.key(bare=True)}{pick('', ', ' + self.key())}{per}{pick('', ' with ties', ' split ties')}",
            f"random {count}{per}{seed}", f"random {count} weighted by {pick('small', 'price')}{per}{seed}",
            f"random {pick('3', '30', '100 percent')} with replacement{per}{seed}", f"random {pick('3', '30')} with replacement weighted by {pick('small', 'price')}{per}{seed}",
            f"chance {pick('0.5', '30 percent', '1 in 4')}{seed}", f"stratified {pick(0, 3, 11, 25)}{per or ' per word'}{pick('', ' proportional', ' equal')}{seed}",
            f"stratified {pick(20, 40)} per flag at least 2 each{seed}", f"stratified {named.format(amount)}{seed}",
            f"part {pick(1, 2, 3)} of 50, 20.5, 29.5 percent{per}{seed}", f"from {self.piece(1)} to {self.piece(1)}",
        ]  # fmt: skip
        return f"draw {self.chance.choice(forms)}{pick('', '', '', ' remainder')}"

    def columns_line(self) -> str:
        """Return a line that shows columns; all stay usable."""
        if self.narrowed:
            return "columns id, *"
        self.narrowed = True
        return str(self.pick(
            "columns all", "columns id, word AS wood, small", "columns id..real, day without whole", "columns kind number, id, w*", "columns #2..#4, id, #-1",
            "columns id, off word, price", "columns *r*, id", "columns id AS number, word AS text, at",
        ))  # fmt: skip


def quoted(name: str) -> str:
    """Write a column's name."""
    return name if name.replace("_", "a").isalnum() else f'"{name}"'


def text_of(value: str) -> str:
    """Write a text literal."""
    return "'" + value.replace("'", "''") + "'"
