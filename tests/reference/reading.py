"""Reading the language: a small parser of its own, by the precedence docs/language.md gives.

A node is a tuple: its name and its parts. Names of columns are ``("name", "x")``.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from decimal import Decimal
from typing import Any

Node = tuple[Any, ...]
TOKEN = re.compile(
    r"""\s*(?:
    (?P<text>'(?:[^']|'')*') | (?P<quoted>"(?:[^"]|"")+") | (?P<number>(?:\d+(?:\.\d+)?|\.\d+)(?:[eE][+-]?\d+)?) |
    (?P<dial>:\w+) | (?P<hash>\#-?\d+) | (?P<pattern>\w+[*?][\w*?]*|[*?]+\w[\w*?]*) | (?P<word>[^\W\d]\w*) |
    (?P<sign><>|!=|<=|>=|\|\||\.\.|[-+*/%=<>(),])
    )""",
    re.VERBOSE,
)
WHOLE = ("AVG", "SUM", "MIN", "MAX", "COUNT", "MEDIAN", "QUANTILE", "VAR_SAMP", "STDDEV_SAMP", "REPEATED")
KINDS = ("text", "integer", "number", "boolean", "date", "timestamp", "instant", "time")


class Reader:
    """Reads one line from left to right."""

    def __init__(self, line: str, dials: dict[str, Any] | None = None) -> None:
        self.tokens: list[tuple[str, str]] = []
        place = 0
        while line[place:].strip():
            found = TOKEN.match(line, place)
            assert found is not None, line[place:]
            assert found.lastgroup is not None
            self.tokens.append((found.lastgroup, found[found.lastgroup]))
            place = found.end()
        self.at = 0
        self.dials = dials or {}
        self.has_per = self.peek()[1].lower() in ("draw", "tally")
        """Whether a "per" without brackets is the line's own."""

    # tokens

    def peek(self, ahead: int = 0) -> tuple[str, str]:
        return self.tokens[self.at + ahead] if self.at + ahead < len(self.tokens) else ("end", "")

    def next_is(self, *words: str) -> bool:
        """Tell whether some words or signs come next."""
        return all(
            self.peek(n)[0] in ("word", "sign") and self.peek(n)[1].upper() == word.upper()
            for n, word in enumerate(words)
        )

    def take(self, *words: str) -> bool:
        """Take some words where they come next."""
        if not self.next_is(*words):
            return False
        self.at += len(words)
        return True

    def need(self, *words: str) -> None:
        assert self.take(*words), (words, self.tokens[self.at :])

    def any_of(self, *words: str) -> str:
        """Take one of some words; "" where none comes next."""
        return next((word for word in words if self.take(word)), "")

    def token(self) -> tuple[str, str]:
        self.at += 1
        return self.tokens[self.at - 1]

    @property
    def is_done(self) -> bool:
        return self.at >= len(self.tokens)

    # conditions, loosest first: OR, AND, NOT, IS TRUE, one comparison

    def condition(self) -> Node:
        items = [self.conjunction()]
        while self.take("OR"):
            items.append(self.conjunction())
        return items[0] if len(items) == 1 else ("or", *items)

    def conjunction(self) -> Node:
        items = [self.negation()]
        while self.take("AND"):
            items.append(self.negation())
        return items[0] if len(items) == 1 else ("and", *items)

    def negation(self) -> Node:
        return ("not", self.negation()) if self.take("NOT") else self.truth()

    def truth(self) -> Node:
        found = self.comparison()
        while self.next_is("IS"):
            self.need("IS")
            negated = self.take("NOT")
            if self.take("DISTINCT"):
                self.need("FROM")
                found = ("distinct", found, self.value(), negated)
            else:
                found = ("is", found, self.any_of("NULL", "TRUE", "FALSE", "UNKNOWN"), negated)
        return found

    def comparison(self) -> Node:
        left = self.value()
        operator = self.any_of("=", "<>", "!=", "<=", ">=", "<", ">")
        if operator:
            return ("compare", "<>" if operator == "!=" else operator, left, self.value(), self.ignoring())
        start = self.at
        negated = self.take("NOT")
        if self.take("BETWEEN"):
            symmetric = self.any_of("SYMMETRIC", "ASYMMETRIC") == "SYMMETRIC"
            low = self.value()
            self.need("AND")
            return self.turned(negated, ("between", left, low, self.value(), symmetric))
        if self.take("IN"):
            if self.peek()[0] == "quoted" or self.next_is("CUT"):
                return ("in second", left, self.second(), self.columns_there(), self.ignoring(), negated)
            self.need("(")
            items = self.several(self.value)
            self.need(")")
            return self.turned(negated, ("in", left, items, self.ignoring()))
        if self.take("LIKE"):
            pattern = self.value()
            escape = self.value()[1] if self.take("ESCAPE") else ""
            return self.turned(negated, ("like", left, pattern, escape, self.ignoring()))
        if self.take("LIKE_REGEX"):
            pattern = self.value()
            return self.turned(negated, ("regex", left, pattern, self.value()[1] if self.take("FLAG") else ""))
        for how, words in (("contains", ("CONTAINS",)), ("starts", ("STARTS", "WITH")), ("ends", ("ENDS", "WITH"))):
            if self.take(*words):
                return self.turned(negated, ("part", how, left, self.value(), self.ignoring()))
        self.at = start
        return left

    @staticmethod
    def turned(negated: bool, node: Node) -> Node:
        return ("not piece", node) if negated else node

    def ignoring(self) -> bool:
        return self.take("IGNORING", "CASE")

    def several(self, read: Any) -> tuple[Any, ...]:
        items = [read()]
        while self.take(","):
            items.append(read())
        return tuple(items)

    # values: sum, product, sign, one thing

    def value(self) -> Node:
        found = self.product()
        while operator := self.any_of("+", "-", "||"):
            found = ("math", operator, found, self.product())
        return found

    def product(self) -> Node:
        found = self.signed()
        while operator := self.any_of("*", "/", "%"):
            found = ("math", operator, found, self.signed())
        return found

    def signed(self) -> Node:
        if self.take("-"):
            inner = self.signed()
            return (
                ("literal", -inner[1])
                if inner[0] == "literal" and isinstance(inner[1], int | Decimal)
                else ("minus", inner)
            )
        return self.signed() if self.take("+") else self.atom()

    def atom(self) -> Node:
        kind, written = self.peek()
        if kind == "text":
            return ("literal", _unquoted(self.token()[1]))
        if kind == "number":
            self.token()
            return ("literal", int(written) if written.isdigit() else Decimal(written))
        if kind == "quoted":
            return ("name", _unquoted(self.token()[1]))
        if kind == "hash":
            return ("number of column", int(self.token()[1][1:]))
        if kind == "dial":
            return ("dial", self.token()[1][1:])
        if self.take("("):
            items = self.within_brackets(lambda: self.several(self.condition))
            self.need(")")
            return ("bracket", items[0]) if len(items) == 1 else ("row", *items)
        if self.next_is("OFF", "("):
            self.need("OFF", "(")
            self.condition()
            self.need(")")
            return ("off",)
        return self.word()

    def within_brackets(self, read: Callable[[], Any]) -> Any:
        """Read something in brackets, where a "per" is an aggregate's own."""
        before, self.has_per = self.has_per, False
        found = read()
        self.has_per = before
        return found

    def word(self) -> Node:
        written = self.peek()[1]
        upper = written.upper()
        behind = self.peek(1)
        if upper in ("TRUE", "FALSE", "NULL"):
            self.token()
            return ("literal", {"TRUE": True, "FALSE": False, "NULL": None}[upper])
        if upper in ("SOURCE_ROW", "CURRENT_DATE"):
            self.token()
            return (upper,)
        if upper in ("DATE", "TIMESTAMP", "TIME", "INTERVAL") and behind[0] == "text":
            self.token()
            text = _unquoted(self.token()[1])
            return ("interval", int(text), self.token()[1].upper()) if upper == "INTERVAL" else ("moment", upper, text)
        if upper == "CASE":
            return self.case()
        if behind[1].upper() == "OF" and upper in ("SUM", "AVG", "MIN", "MAX", "COUNT", "ANY", "ALL"):
            self.token()
            self.need("OF", "(")
            found = ("across" if upper not in ("ANY", "ALL") else "quantified", upper, self.column_list())
            self.need(")")
            return found
        if behind == ("sign", "("):
            return self.call(upper)
        return ("name", self.token()[1])

    def case(self) -> Node:
        self.need("CASE")
        subject = None if self.next_is("WHEN") else self.value()
        branches = []
        while self.take("WHEN"):
            when = self.condition()
            self.need("THEN")
            branches.append((when, self.condition()))
        otherwise = self.condition() if self.take("ELSE") else ("literal", None)
        self.need("END")
        return ("case", subject, tuple(branches), otherwise)

    def call(self, name: str) -> Node:
        self.token()
        self.need("(")
        found: Node
        if name == "EXTRACT":
            field = self.token()[1].upper()
            self.need("FROM")
            found = ("extract", field, self.value())
        elif name == "TRIM":
            side = self.any_of("LEADING", "TRAILING", "BOTH") or "BOTH"
            first = ("literal", None) if self.take("FROM") else self.value()
            found = ("trim", side, first[1], self.value()) if self.take("FROM") else (
                ("trim", side, None, self.value()) if first == ("literal", None) else ("trim", side, None, first)
            )  # fmt: skip
        elif name == "SUBSTRING":
            text = self.value()
            comma = self.take(",")
            assert comma or self.take("FROM")
            start = self.value()
            length = self.value() if (self.take(",") if comma else self.take("FOR")) else None
            found = ("call", "SUBSTRING", (text, start, *([length] if length is not None else [])))
        elif name == "POSITION":
            part = self.value()
            self.need("IN")
            found = ("call", "POSITION", (part, self.value()))
        elif name == "CAST":
            inner = self.condition()
            self.need("AS")
            found = ("cast", inner, self.token()[1].lower())
        elif name in WHOLE:
            return self.aggregate(name)
        else:
            found = ("call", name, self.within_brackets(lambda: self.several(self.condition)))
        self.need(")")
        return found

    def aggregate(self, name: str) -> Node:
        """Read a value of all rows: of different values, of some rows, of the row's group."""
        distinct = self.take("DISTINCT")
        arguments = () if self.take("*") else self.within_brackets(lambda: self.several(self.condition))
        self.need(")")
        where: Node | None = None
        if self.take("FILTER"):
            self.need("(", "WHERE")
            where = self.within_brackets(self.condition)
            self.need(")")
        per: tuple[Node, ...] = ()
        if not self.has_per and self.take("PER"):
            if self.take("("):
                per = self.within_brackets(lambda: self.several(self.value))
                self.need(")")
            else:
                per = (self.atom(),)
        if distinct or where is not None or per:
            return ("measure", name, arguments, distinct, where, per)
        return ("whole", name, arguments)

    # second tables

    def second(self) -> str:
        """Read which table it is: a file in double quotes, or ``cut`` and a name."""
        return f"cut {_unquoted(self.token()[1])}" if self.take("CUT") else _unquoted(self.token()[1])

    def columns_there(self) -> tuple[str, ...]:
        """Read the columns that are looked into, where some are named."""
        if not self.take("COLUMN"):
            return ()
        if self.take("("):
            names = self.several(lambda: _name(self.token()))
            self.need(")")
            return names
        return (_name(self.token()),)

    # columns

    def column_list(self) -> Node:
        items = self.several(self.column_item)
        without = self.several(self.column_item) if self.take("WITHOUT") else ()
        return ("columns", items, without)

    def column_item(self) -> Node:
        if self.take("OFF"):
            self.column_item()
            return ("off item",)
        if self.next_is("ALL"):
            self.token()
            return ("all",)
        if self.next_is("KIND") and self.peek(1)[1] in KINDS:
            self.token()
            return ("of kind", self.token()[1])
        if self.peek()[0] == "pattern" or self.next_is("*"):
            return ("pattern", self.token()[1])
        first = self.column()
        if self.take(".."):
            return ("range", first, self.column())
        new = _name(self.token()) if self.take("AS") else None
        return ("one", first, new)

    def column(self) -> Node:
        kind, written = self.token()
        return ("number of column", int(written[1:])) if kind == "hash" else ("name", _name((kind, written)))


def _name(token: tuple[str, str]) -> str:
    return _unquoted(token[1]) if token[0] == "quoted" else token[1]


def _unquoted(written: str) -> str:
    mark = written[0]
    return written[1:-1].replace(mark * 2, mark)
