"""Whatever is written, it has a meaning or a ListError says why not, with a place in the line."""

from __future__ import annotations

from hypothesis import example, given, settings
from hypothesis import strategies as st

from helpers import YARD_SCOPE, scope_of
from strategies import NAMES, statements
from thoroughness import examples
from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.functions import FUNCTIONS
from yardcut.core.language.lines import statement_text
from yardcut.core.run.executing.bound_lines import bind_line
from yardcut.core.values.kinds import Kind

_KINDS = list(Kind)
_SCOPE = scope_of([(name, _KINDS[number % len(_KINDS)]) for number, name in enumerate(NAMES)])
_ATOMS = [
    "ticket", "length_mm", "price_per_m3", "felled_on", "kiln_in", "reserved", "NULL", "*", "3", "-0.5", "'oak'", "'3'",
    "DATE '2031-03-01'", "INTERVAL '2' DAY", "TRUE", "CURRENT_DATE", "ANY OF (all)", "ALL OF (moisture_*)",
    "SUM OF (moisture_*)", "off (reserved)",
]  # fmt: skip
_expressions = st.recursive(
    st.sampled_from(_ATOMS),
    lambda inner: (
        st.builds(
            lambda name, arguments: f"{name}({', '.join(arguments)})",
            st.sampled_from(sorted(FUNCTIONS)),
            st.lists(inner, min_size=1, max_size=3),
        )
        | st.builds("({} {} {})".format, inner, st.sampled_from(["+", "/", "||", "=", "<", "AND", "OR"]), inner)
        | st.builds("{} IS {}DISTINCT FROM {}".format, inner, st.sampled_from(["", "NOT "]), inner)
        | st.builds("{} {}IN ({}, {})".format, inner, st.sampled_from(["", "NOT "]), inner, inner)
        | st.builds("{} BETWEEN {} AND {}".format, inner, inner, inner)
        | st.builds("({} IS NULL)".format, inner)
        | st.builds("CASE WHEN {} THEN {} ELSE {} END".format, inner, inner, inner)
        | st.builds("CASE {} WHEN {} THEN {} END".format, inner, inner, inner)
        | st.builds("EXTRACT({} FROM {})".format, st.sampled_from(["YEAR", "HOUR", "DOW"]), inner)
        | st.builds("CAST({} AS {})".format, inner, st.sampled_from([kind.value for kind in Kind]))
    ),
    max_leaves=6,
)
_lines = st.builds(
    "{}{}".format, st.sampled_from(["keep ", "drop ", "make a = ", "order ", "draw top 3 by "]), _expressions
)


def bound_or_refused(line: str) -> None:
    try:
        bind_line(line, YARD_SCOPE)
    except ListError as error:
        assert error.message
        assert 0 <= error.start <= error.end <= len(line)
        if error.mend is not None and error.mend.text is not None:
            bind_again(error.mend.text)


def bind_again(line: str) -> None:
    """Bind what a mend offers: it may have a further fault, which is refused in the same way."""
    try:
        bind_line(line, YARD_SCOPE)
    except ListError as error:
        assert error.message


@given(_lines)
@example("make a = ABS(*)")
@example("make a = COALESCE(*, 3)")
@example("keep length_mm IN (NULL, price_per_m3)")
@settings(max_examples=examples(500), deadline=None)
def test_any_words_have_a_meaning_or_a_reason(line: str) -> None:
    bound_or_refused(line)


@given(statements)
@settings(max_examples=examples(300), deadline=None)
def test_any_statement_has_a_meaning_or_a_reason(statement: t.Statement) -> None:
    text = statement_text(statement)
    try:
        bind_line(text, _SCOPE)
    except ListError as error:
        assert error.message
        assert 0 <= error.start <= error.end <= len(text)
