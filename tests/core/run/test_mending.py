"""A mend keeps the meaning, or is not offered: known slips, near names, near values that stand in the column."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import scope_of
from strategies import bodies
from yardcut.core.errors import ListError
from yardcut.core.language.helping.completing_lines import Frequent, complete
from yardcut.core.language.lines import statement_text
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax_trees import Statement
from yardcut.core.run.executing.bound_lines import bind_line
from yardcut.core.run.explaining.mends_offered import mended
from yardcut.core.values.kinds import Kind

SCOPE = scope_of(
    [
        ("ticket", Kind.TEXT), ("species", Kind.TEXT), ("grade", Kind.TEXT), ("origin", Kind.TEXT), ("bay", Kind.TEXT),
        ("length_mm", Kind.INTEGER), ("price", Kind.NUMBER), ("felled_on", Kind.DATE), ("reserved", Kind.BOOLEAN),
        ("buyer name", Kind.TEXT), ("kiln-in", Kind.DATE), ("boards", Kind.INTEGER),
    ]
)  # fmt: skip
KNOWN = {
    "species": (("oak", 2759), ("oak ", 76), ("Oak", 72), ("larch", 900)),
    "origin": (("Greyfold", 700), ("Mere Bank", 500)),
    "grade": (("A", 1065), ("B", 900)),
    "buyer name": (("Ash", 3),),
}


def values(column: ShownColumn) -> Frequent:
    return Frequent(KNOWN.get(column.name, ()))


def wrong(text: str) -> ListError:
    with pytest.raises(ListError) as caught:
        bind_line(text, SCOPE, default_seed=1)
    return caught.value


@pytest.mark.parametrize(
    ("text", "meant"),
    [
        ("order by felled_on", "order felled_on"),
        ("order by price desc", "order price desc"),
        ("off order by price desc", "off order price desc"),
        ("sort by price", "order price"),
        ("sort price DESC, grade", "order price DESC, grade"),
        ("where grade = 'A'", "keep grade = 'A'"),
        ("filter grade == 'A'", "keep grade = 'A'"),
        ("remove grade = 'A'", "drop grade = 'A'"),
        ("limit 10", "draw first 10"),
        ("sample 100", "draw random 100"),
        ("first 10", "draw first 10"),
        ("top 10 by price", "draw top 10 by price"),
        ("select ticket, grade", "columns ticket, grade"),
        ("select *", "columns all"),
        ("columns -bay", "columns all without bay"),
        ("columns -bay, -grade", "columns all without bay, grade"),
        ("set worth = price * 2", "make worth = price * 2"),
        ("order 5", "order #5"),
        ("order 'grade'", "order grade"),
        ("order price -1", "order price DESC"),
        ("keep species = 'oak AND grade = 'A'", "keep species = 'oak' AND grade = 'A'"),
        ("keep length_mm > 1,000,000", "keep length_mm > 1000000"),
        ("keep 2 < boards < 9", "keep 2 < boards AND boards < 9"),
        ("keep grade = 'A' | grade = 'B'", "keep grade = 'A' OR grade = 'B'"),
        ("keep grade = 'A' & reserved", "keep grade = 'A' AND reserved"),
        ("keep grade = 'A' || reserved", "keep grade = 'A' OR reserved"),
        ("keep buyer name = 'Ash'", "keep \"buyer name\" = 'Ash'"),
        ("order kiln-in", 'order "kiln-in"'),
        ("keep species = oak", "keep species = 'oak'"),
        ("keep species = OAK", "keep species = 'oak'"),
        ("keep species IN (oak, larch)", "keep species IN ('oak', 'larch')"),
        ("keep origin = grey", "keep origin = 'Greyfold'"),
        ("keep origin = Mere Bank AND grade = 'A'", "keep origin = 'Mere Bank' AND grade = 'A'"),
        ("keep specis == oak && length_mm > '2400'", "keep species = 'oak' AND length_mm > 2400"),
        ("keep (grade = 'A'", "keep (grade = 'A')"),
        ("keep grade = “A”;", "keep grade = 'A'"),
        ("keep ABSS(price) > 3", "keep ABS(price) > 3"),
    ],
)  # fmt: skip
def test_the_likely_meaning_is_offered_parses_and_binds(text: str, meant: str) -> None:
    wrong(text)
    found, applied = mended(text, SCOPE, values)
    assert applied
    assert found == meant
    bind_line(found, SCOPE, default_seed=1)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("keep species =", "not whole"),
        ("keep species in ()", "cannot stand here"),
        ("keep astro(felled_on) = 2030", "no function ASTRO"),
        ("keep origin = nowhere", "no column nowhere"),
        ("top 10", "draw top 10 by price_per_m3, or the first rows"),
        ("rename species wood", "columns species AS wood"),
        ("pivot species by grade", "per species"),
        ("keep species ~ 'oa'", "CONTAINS"),
        ("keep 2 < boards > 1", "do not chain"),
        ("keep grade = 'A' grade = 'B'", "cannot stand here"),
        ("keep price 5", "cannot stand here"),
        ("order price boards", "cannot stand here"),
        ("order 99", "a number orders nothing"),
        ("keep grade = 'A' AND price == foo", "= cannot stand here"),
        ("columns ticket -bay", "without"),
    ],
)
def test_where_no_meaning_is_likely_there_is_a_sentence_and_no_mend(text: str, says: str) -> None:
    assert says in str(wrong(text))
    assert mended(text, SCOPE, values) == (text, ())


@pytest.mark.parametrize(
    ("text", "start", "offered"),
    [
        ("order kiln-", 6, ['"kiln-in"']),
        ("order KILN-i", 6, ['"kiln-in"']),
        ("order ticket, kiln-", 14, ['"kiln-in"']),
        ("keep buyer n", 5, ['"buyer name"']),
        ("columns buyer ", 8, ['"buyer name"']),
    ],
)
def test_a_name_with_a_hyphen_or_a_blank_is_completed_whole_in_quotes(
    text: str, start: int, offered: list[str]
) -> None:
    found = complete(text, SCOPE, values)
    assert (found.start, [option.text for option in found.options]) == (start, offered)


def test_a_fragment_of_one_word_completes_as_before() -> None:
    assert [option.text for option in complete("order kiln", SCOPE, values).options][:1] == ['"kiln-in"']
    assert complete("keep grade = 'A' AND bo", SCOPE, values).options[0].text == "boards"


def test_tab_and_f2_agree_about_values() -> None:
    for word in ("oak", "lar", "OAK"):
        offered = complete(f"keep species = {word}", SCOPE, values).options
        found, applied = mended(f"keep species = {word}", SCOPE, values)
        assert applied
        assert found == f"keep species = {offered[0].text}"


WORD = re.compile(r"\w+|[^\w\s]")


@pytest.mark.long
@given(
    bodies.filter(lambda body: body.word in ("keep", "drop", "order", "columns")),
    st.integers(0, 60),
    st.sampled_from("|&~=,()'\"x1 -;"),
)
def test_a_mended_line_parses_binds_and_keeps_the_words(body: object, place: int, slip: str) -> None:
    """Break a line at one place: what is offered must be right, and hold the words that were typed, in their order."""
    text = statement_text(Statement(body))  # type: ignore[arg-type]
    place = min(place, len(text))
    broken = text[:place] + slip + text[place:]
    found, applied = mended(broken, SCOPE, values)
    if not applied:
        return
    parse_statement(found)
    bind_line(found, SCOPE, default_seed=1)
    typed = [word.casefold() for word in re.findall(r"\w{3,}", broken)]
    kept = " ".join(re.findall(r"\w+", found)).casefold()
    near = [word for word in typed if word not in kept]
    assert len(near) <= len(applied), (broken, found)
