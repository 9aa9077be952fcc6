"""Second tables in SQL: a file is a table of its name, a short plain list is written out, a cut stands above."""

from __future__ import annotations

from collections.abc import Callable

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_second import Brought, Matching, OtherRows
from yardcut.core.language.verbs.bring import BoundBring
from yardcut.core.language.verbs.bring_parts import Only
from yardcut.core.sql.dialects import quoted_name, quoted_text
from yardcut.core.sql.expression_texts import Writer, not_said
from yardcut.core.table.window import Span
from yardcut.core.values.kinds import Kind

MOST_WRITTEN = 1000
"""Values of a plain list that are written out."""
There = Callable[[OtherRows], tuple[str, Writer]]
"""Gives the name a second table has in the statement, and what writes values of its rows."""


def listed_text(matching: Matching, writer: Writer, there: There) -> str:
    """Write whether a row's values stand in a second table. Raises ``NotSaidError``."""
    if matching.ignoring_case:
        raise not_said("IGNORING CASE", "databases fold capitals otherwise")
    if matching.other.is_list:
        return _written_out(matching, writer)
    keys = [writer.value(key) for key in matching.keys]
    missing = " OR ".join(f"{key} IS NULL" for key in keys)
    return f"(CASE WHEN {missing} THEN NULL ELSE {_exists(matching, writer, there)} END)"


def _exists(matching: Matching, writer: Writer, there: There) -> str:
    name, their = there(matching.other)
    pairs = [
        f"{their.value(theirs.value)} = {writer.value(key)}"
        for key, theirs in zip(matching.keys, matching.their_keys, strict=True)
    ]
    return f"EXISTS (SELECT 1 FROM {quoted_name(name)} AS other_rows WHERE {' AND '.join(pairs)})"


def _written_out(matching: Matching, writer: Writer) -> str:
    table = matching.other.table
    if table.rows > MOST_WRITTEN:
        raise not_said(f"a list of {table.rows:,} values", f"at most {MOST_WRITTEN:,} are written out")
    found = evaluate(matching.their_keys[0].value, Span(table, 0, table.rows)).texts()
    kind = matching.keys[0].kind
    if kind not in (Kind.TEXT, Kind.INTEGER, Kind.NUMBER, Kind.DATE):
        raise not_said(f"a plain list of values of kind {kind}", "how they are written differs there")
    word = "DATE " if kind is Kind.DATE and not writer.dialect.days_are_texts else ""
    quoted = kind in (Kind.TEXT, Kind.DATE)
    listed = [f"{word}{quoted_text(text)}" if quoted else text for text in dict.fromkeys(found) if text is not None]
    value = writer.value(matching.keys[0])
    return f"({value} IN ({', '.join(listed)}))" if listed else f"({value} IS NULL AND NULL)"


def brought_text(
    body: BoundBring, last: str, names: list[str], writer: Writer, there: There
) -> str:  # fmt: skip
    """Write the rows of the last table with brought columns beside them. Raises ``NotSaidError``."""
    matching = body.matching
    if matching.their_moment is not None:
        raise not_said("latest", "it takes one row of several")
    if matching.first and body.only is not Only.UNMATCHED:
        raise not_said("first match", "the rows of a table have no order")
    name, their = there(matching.other)
    pairs = [
        f"{their.value(theirs.value)} = {writer.value(key)}"
        for key, theirs in zip(matching.keys, matching.their_keys, strict=True)
    ]
    brought = []
    for column, said in zip(body.brought, names, strict=True):
        value = column.value.value if isinstance(column.value, b.Made) else column.value
        assert isinstance(value, Brought)
        brought.append(f"{their.value(value.value.value)} AS {quoted_name(said)}")
    join = "JOIN" if body.only is Only.MATCHED else "LEFT JOIN"
    text = (
        f"SELECT {', '.join(['line_rows.*', *brought])} FROM {quoted_name(last)} AS line_rows "
        f"{join} {quoted_name(name)} AS other_rows ON {' AND '.join(pairs)}"
    )
    if body.only is Only.UNMATCHED:
        text += f" WHERE NOT {_exists(matching, writer, there)}"
    return text
