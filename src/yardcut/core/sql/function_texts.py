"""The functions of the language in SQL; those that databases work out otherwise are not said."""

from __future__ import annotations

from collections.abc import Sequence

from yardcut.core.errors import ListError
from yardcut.core.language.meaning import bound as b
from yardcut.core.sql.dialects import Dialect
from yardcut.core.values.kinds import Kind

_INEXACT = {"POWER", "EXP", "LN", "LOG10"}


def call(node: b.Call, said: Sequence[str], dialect: Dialect) -> str:
    """Write a function of values that are written already. Raises ``ListError`` where the database has none like it."""
    function = node.function
    if function.endswith(" OF"):
        return _across(function.split()[0], said, node.kind, dialect)
    form = dialect.form(_name(node), node.kind)
    if form is None:
        raise ListError(f"{_called(node)} cannot be said in SQL{_why(node, dialect)}")
    by = dialect.code_points if node.kind is Kind.TEXT else ""
    return form.format(
        *said,
        missing=" OR ".join(f"{each} IS NULL" for each in said),
        values=", ".join([f"{said[0]}{by}", *said[1:]]),
        bare=said[-1].strip("()"),
    )


def _name(node: b.Call) -> str:
    """Return what a function's form is found by: some differ by how many values they take, or of which kinds."""
    function, count = node.function, len(node.arguments)
    if function == "CAST":
        return f"CAST {node.arguments[0].kind} {node.kind}"
    if function.startswith("TRIM "):
        return f"{function} {count}"
    if function == "SUBSTRING" and all(map(_is_plain_count, node.arguments[1:])):
        return f"SUBSTRING {count}"
    return function


def _called(node: b.Call) -> str:
    if node.function == "CAST":
        return f"a CAST of {node.arguments[0].kind} to {node.kind}"
    return f"EXTRACT({node.function.split()[1]} …)" if node.function.startswith("EXTRACT ") else node.function


def _why(node: b.Call, dialect: Dialect) -> str:
    if node.function == "CAST":
        return ": what does not fit is an error there"
    if node.function.startswith("EXTRACT "):
        return f" for {dialect.name}"
    if node.function in _INEXACT:
        return ": its last digit is worked out otherwise there"
    return f": {dialect.why_not.get(node.function, 'databases have none just like it')}"


def _is_plain_count(value: b.BoundValue) -> bool:
    return isinstance(value, b.Constant) and isinstance(value.value, int) and value.value >= 1


def _across(function: str, said: Sequence[str], kind: Kind, dialect: Dialect) -> str:
    """Write a function of several columns of one row, missing values passed over."""
    rows = " UNION ALL ".join([f"SELECT {said[0]} AS v", *(f"SELECT {each}" for each in said[1:])])
    inner = f"CAST(v AS {dialect.types[Kind.NUMBER]})" if kind is Kind.NUMBER else "v"
    by = dialect.code_points if kind is Kind.TEXT and function in ("MIN", "MAX") else ""
    return f"(SELECT {function}({inner}{by}) FROM ({rows}) AS each)"
