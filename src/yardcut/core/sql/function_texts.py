"""The functions of the language in SQL; those that databases work out otherwise are not said."""

from __future__ import annotations

from collections.abc import Sequence

from yardcut.core.errors import ListError
from yardcut.core.language.meaning import bound as b
from yardcut.core.sql.dialects import Dialect
from yardcut.core.values.kinds import Kind

_INEXACT = {"POWER", "EXP", "LN", "LOG10"}
_EXTRACTED = {
    "YEAR": "'%Y'", "MONTH": "'%m'", "DAY": "'%d'", "HOUR": "'%H'", "MINUTE": "'%M'",
}  # fmt: skip


def call(node: b.Call, said: Sequence[str], dialect: Dialect) -> str:
    """Write a function of values that are written already. Raises ``ListError`` where the database has none like it."""
    is_sqlite = dialect.name == "sqlite"
    function = node.function
    if function.startswith("EXTRACT "):
        return _extract(function.split()[1], said[0], is_sqlite)
    if function.startswith("TRIM "):
        side, character = function.split()[1], said[1] if len(said) > 1 else "' '"
        if is_sqlite:
            name = {"BOTH": "trim", "LEADING": "ltrim", "TRAILING": "rtrim"}[side]
            return f"{name}({said[0]}, {character})"
        return f"TRIM({side} {character} FROM {said[0]})"
    if function.endswith(" OF"):
        return _across(function.split()[0], said, node.kind, dialect)
    found = _of_texts(node, said, is_sqlite) or _of_values(node, said, dialect, is_sqlite)
    if found is None:
        inexact = "its last digit is worked out otherwise there"
        why = inexact if function in _INEXACT else "databases have none just like it"
        raise ListError(f"{function} cannot be said in SQL: {why}")
    return found


def _of_texts(node: b.Call, said: Sequence[str], is_sqlite: bool) -> str | None:
    match node.function:
        case "||":
            return f"({said[0]} || {said[1]})"
        case "CHAR_LENGTH":
            return f"length({said[0]})" if is_sqlite else f"CHAR_LENGTH({said[0]})"
        case "POSITION":
            return f"instr({said[1]}, {said[0]})" if is_sqlite else f"POSITION({said[0]} IN {said[1]})"
        case "SUBSTRING" if all(map(_is_plain_count, node.arguments[1:])):
            if is_sqlite:
                return f"substr({', '.join(said)})"
            length = f" FOR {said[2]}" if len(said) > 2 else ""
            return f"SUBSTRING({said[0]} FROM {said[1]}{length})"
        case "UPPER" | "LOWER" if not is_sqlite:
            return f"{node.function}({said[0]})"
    return None


def _of_values(node: b.Call, said: Sequence[str], dialect: Dialect, is_sqlite: bool) -> str | None:
    function, kinds = node.function, [each.kind for each in node.arguments]
    match function:
        case "ABS":
            return f"ABS({said[0]})"
        case "SQRT" if not is_sqlite:
            return f"(CASE WHEN {said[0]} >= 0 THEN SQRT({said[0]}) END)"
        case "FLOOR" | "CEILING" if kinds[0] is Kind.INTEGER:
            return said[0]
        case "FLOOR" | "CEILING" if not is_sqlite:
            return f"{function}({said[0]})"
        case "MOD" if node.kind is Kind.INTEGER:
            return f"({said[0]} % NULLIF({said[1]}, 0))"
        case "GREATEST" | "LEAST":
            if is_sqlite:
                return f"{'max' if function == 'GREATEST' else 'min'}({', '.join(said)})"
            missing = " OR ".join(f"{each} IS NULL" for each in said)
            by = dialect.code_points if node.kind is Kind.TEXT else ""
            return f"(CASE WHEN {missing} THEN NULL ELSE {function}({said[0]}{by}, {', '.join(said[1:])}) END)"
        case "ADD UNITS" if node.kind is Kind.DATE:
            return f"date({said[0]}, '{said[1].strip('()')} days')" if is_sqlite else f"({said[0]} + {said[1]})"
        case "ADD MONTHS" if node.kind is Kind.DATE and not is_sqlite:
            return f"CAST({said[0]} + INTERVAL '{said[1].strip('()')} months' AS date)"
        case "CAST":
            return _cast(said[0], kinds[0], node.kind, dialect)
    return None


def _is_plain_count(value: b.BoundValue) -> bool:
    return isinstance(value, b.Constant) and isinstance(value.value, int) and value.value >= 1


def _extract(field: str, value: str, is_sqlite: bool) -> str:
    if not is_sqlite:
        if field == "SECOND":
            return f"CAST(EXTRACT(SECOND FROM {value}) AS double precision)"
        return f"CAST(EXTRACT({'ISODOW' if field == 'WEEKDAY' else field} FROM {value}) AS integer)"
    if field == "QUARTER":
        return f"((CAST(strftime('%m', {value}) AS INTEGER) + 2) / 3)"
    if field == "WEEKDAY":
        return f"((CAST(strftime('%w', {value}) AS INTEGER) + 6) % 7 + 1)"
    if field not in _EXTRACTED:
        raise ListError(f"EXTRACT({field} …) cannot be said in SQL for sqlite")
    return f"CAST(strftime({_EXTRACTED[field]}, {value}) AS INTEGER)"


def _across(function: str, said: Sequence[str], kind: Kind, dialect: Dialect) -> str:
    """Write a function of several columns of one row, missing values passed over."""
    rows = " UNION ALL ".join([f"SELECT {said[0]} AS v", *(f"SELECT {each}" for each in said[1:])])
    inner = f"CAST(v AS {dialect.types[Kind.NUMBER]})" if kind is Kind.NUMBER else "v"
    by = dialect.code_points if kind is Kind.TEXT and function in ("MIN", "MAX") else ""
    return f"(SELECT {function}({inner}{by}) FROM ({rows}) AS each)"


def _cast(value: str, kind: Kind, to: Kind, dialect: Dialect) -> str:
    simple = {(Kind.INTEGER, Kind.NUMBER), (Kind.INTEGER, Kind.TEXT)}
    if (kind, to) in simple:
        return f"CAST({value} AS {dialect.types[to]})"
    if (kind, to) == (Kind.NUMBER, Kind.INTEGER):
        return f"CAST({value} AS INTEGER)" if dialect.name == "sqlite" else f"CAST(TRUNC({value}) AS bigint)"
    if (kind, to) == (Kind.DATE, Kind.TEXT):
        return value if dialect.days_are_texts else f"TO_CHAR({value}, 'YYYY-MM-DD')"
    if (kind, to) == (Kind.TIMESTAMP, Kind.DATE):
        return f"date({value})" if dialect.days_are_texts else f"CAST({value} AS date)"
    raise ListError(f"a CAST of {kind} to {to} cannot be said in SQL: what does not fit is an error there")
