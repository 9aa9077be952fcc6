import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.errors import ListError, NotYetError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.lines import statement_text
from yardcut.core.language.syntax.grammars import grammar_text
from yardcut.core.language.syntax.parsing_lines import parse_statement, said_otherwise
from yardcut.core.language.verbs.columns import Columns
from yardcut.core.language.verbs.draw_parts import Draw


@pytest.mark.parametrize(
    ("text", "printed"),
    [
        ("KEEP grade in ('A')", "keep grade IN ('A')"),
        ("keep a != 1", "keep a <> 1"),
        ("keep (a = 1)", "keep a = 1"),
        ("keep a = 1 OR b = 2 AND c = 3", "keep a = 1 OR b = 2 AND c = 3"),
        ("keep (a = 1 OR b = 2) AND c = 3", "keep (a = 1 OR b = 2) AND c = 3"),
        ("keep NOT a = 1 IS UNKNOWN", "keep NOT a = 1 IS UNKNOWN"),
        ("keep a BETWEEN 1 AND 2 AND b", "keep a BETWEEN 1 AND 2 AND b"),
        ("keep a - (b - c) = 1", "keep a - (b - c) = 1"),
        ("keep 'it''s' = name -- 'a comment", "keep 'it''s' = name"),
        ("keep a\n  -- why\n  = 1", "keep a = 1"),
        ("keep order = 1 AND per = 2 AND draw = 3", "keep order = 1 AND per = 2 AND draw = 3"),
        ("keep off (a = 1) AND b", "keep off (a = 1) AND b"),
        ("keep off = 1", 'keep "off" = 1'),
        ("off draw first 3", "off draw first 3"),
        ("order a desc nulls last, b nulls first", "order a DESC, b NULLS FIRST"),
        ("draw random 3 seed 7 per species", "draw random 3 per species seed 7"),
        ("draw top 3 by a, b desc split ties", "draw top 3 by a, b DESC"),
        ("columns a..b, #2..#-1, all without x*, /y$/", "columns a..b, #2..#-1, all without x*, /y$/"),
        ("columns kind number, kind, kind AS k", 'columns kind number, "kind", "kind" AS k'),
        ("save 'a b.csv' as csv replace", 'save "a b.csv" as csv replace'),
        ("keep a = U&'\\00e9\\000A'", "keep a = U&'é\\000A'"),
    ],
)
def test_a_line_is_read_as_it_is_printed(text: str, printed: str) -> None:
    assert statement_text(parse_statement(text)) == printed


@pytest.mark.parametrize(
    ("text", "mend"),
    [
        ("keep a == 3", "keep a = 3"),
        ("keep a = 3 && b = 4", "keep a = 3 AND b = 4"),
        ("keep a = 3 || b = 4", "keep a = 3 OR b = 4"),
        ("keep a = “oak”", "keep a = 'oak'"),
        ("keep a = ‘oak’ && b ≥ 3;", "keep a = 'oak' AND b >= 3"),
        ("keep a ≤ 3", "keep a <= 3"),
        ("keep a => 3", "keep a >= 3"),
        ("keep a = 3;", "keep a = 3"),
        ("keep (a = 3", "keep (a = 3)"),
        ("kep a = 3", "keep a = 3"),
        ("keep x --3", "keep x - -3"),
        ("save out.csv", "save 'out.csv'"),
    ],
)
def test_slips_of_other_habits_are_offered_put_right(text: str, mend: str) -> None:
    with pytest.raises(ListError) as caught:
        parse_statement(text)
    if text == "keep x --3":
        assert "two minus signs" in str(caught.value)
        assert caught.value.mend is None or caught.value.mend.text == mend
        return
    assert caught.value.mend is not None
    assert caught.value.mend.text == mend


LEFT_OUT = "columns all without remark, grade"
BEGINNINGS = ["", "all ", "* ", "all, ", "everything "]
WORDS = ["except", "except for", "excluding", "but", "but not", "minus", "without", "not", "-", "!", "EXCEPT"]
LISTS = ["remark, grade", "(remark, grade)"]


@pytest.mark.parametrize(
    ("text", "mend"),
    [
        *((f"columns {all_}{word} {names}", LEFT_OUT)
          for all_ in BEGINNINGS for word in WORDS for names in LISTS
          if word != "without" or all_ in ("", "all, ") or names[0] == "("),
        *((f"{verb} {noun} {names}", LEFT_OUT)
          for verb in ("drop", "remove", "hide", "omit", "delete") for noun in ("column", "columns") for names in LISTS
          if verb != "drop" or names[0] != "("),
        ("hide remark", "columns all without remark"),
        ("select * except (remark)", "columns all without remark"),
        ("select all but remark", "columns all without remark"),
        ("columns -remark, -grade", LEFT_OUT),
        ("columns !remark, !grade", LEFT_OUT),
        ("off columns except /_on$/, moisture_d*", "off columns all without /_on$/, moisture_d*"),
        ('columns except "a, b", #3', 'columns all without "a, b", #3'),
        ("keep columns remark, grade", "columns remark, grade"),
        ("show column remark", "columns remark"),
    ],
)  # fmt: skip
def test_ways_to_leave_columns_out_are_offered_put_right(text: str, mend: str) -> None:
    with pytest.raises(ListError) as caught:
        parse_statement(text)
    assert caught.value.mend is not None
    assert caught.value.mend.text == mend
    parse_statement(mend)


@pytest.mark.parametrize(
    ("text", "mend"),
    [
        ("keep x is missing", "keep x IS NULL"),
        ("keep x is not empty AND y = 'is missing'", "keep x IS NOT NULL AND y = 'is missing'"),
        ('drop "a b" not null', 'drop "a b" IS NOT NULL'),
        ("drop missing remark", "drop remark IS NULL"),
        ("order a descending, b up", "order a DESC, b ASC"),
        ("sort price high to low", "order price DESC"),
        ("draw random 10%", "draw random 10 percent"),
        ("sample 5%", "draw random 5 percent"),
        ("draw random 100 by species seed 3", "draw random 100 per species seed 3"),
        ("draw top 10 price", "draw top 10 by price"),
        ("keep top 10 by price per bay", "draw top 10 by price per bay"),
        ("off keep first 10", "off draw first 10"),
        ("make x := a * 2", "make x = a * 2"),
        ("x = a * 2", "make x = a * 2"),
        ("keep species in oak, ash", "keep species IN ('oak', 'ash')"),
        ("keep sold_on after '2031-03-01'", "keep sold_on > '2031-03-01'"),
        ("distinct species, bay", "draw first 1 per species, bay"),
        ("drop duplicates ticket", "draw first 1 per ticket"),
        ("save as oak.csv", "save 'oak.csv'"),
        ("export to oak.csv", "save 'oak.csv'"),
        ("columns species to wood", "columns species AS wood"),
    ],
)
def test_phrases_of_other_habits_are_offered_as_they_are_written_here(text: str, mend: str) -> None:
    with pytest.raises(ListError) as caught:
        parse_statement(text)
    assert caught.value.mend is not None
    assert caught.value.mend.text == mend
    assert mend in str(caught.value)
    parse_statement(mend)


@pytest.mark.parametrize("word", ["100x", "3rd", "1.2.3", "7_000"])
def test_a_word_that_begins_as_a_number_is_named_whole(word: str) -> None:
    with pytest.raises(ListError) as caught:
        parse_statement(f"draw random {word}")
    assert f"{word} cannot stand here" in str(caught.value)
    assert (caught.value.start, caught.value.end) == (12, 12 + len(word))


@pytest.mark.parametrize(
    ("called", "written"),
    [
        ("year(felled)", "EXTRACT(year FROM felled)"),
        ("if(price > 3, 1, 2)", "CASE WHEN price > 3 THEN 1 ELSE 2 END"),
        ("len(species)", "CHAR_LENGTH(species)"),
        ("concat(species, ' ', grade)", "(species || ' ' || grade)"),
        ("2 + year(felled)", "2 + EXTRACT(year FROM felled)"),
    ],
)
def test_functions_of_other_names_are_offered_by_theirs(called: str, written: str) -> None:
    error = said_otherwise(f"make x = {called}, y = 'year(felled)'", called.split("(")[0].split()[-1])
    assert error is not None
    assert error.text == f"make x = {written}, y = 'year(felled)'"


@pytest.mark.few(40)
@pytest.mark.parametrize(
    "text",
    [
        f"{verb} {rest}"
        for verb in ("select", "where", "filter", "delete", "remove", "sort by", "order by", "limit", "add", "hide")
        for rest in ("drop columns", "remark >", "x, ", "a b c", "columns all except", "* except (a b)", "5 5", "= 3")
    ],
)
def test_what_is_offered_in_place_of_a_slip_is_right_itself(text: str) -> None:
    with pytest.raises(ListError) as caught:
        parse_statement(text)
    if caught.value.mend is not None and caught.value.mend.text is not None:
        parse_statement(caught.value.mend.text)


@pytest.mark.parametrize(
    ("text", "start", "says"),
    [
        ("keep a =", 8, "the line is not whole"),
        ("keep a = 'x", 9, "does not close on its line"),
        ("keep a = DATE '2031-02-30'", 9, "no day or time 2031-02-30"),
        ("keep a = DATE '1.2.2031'", 9, "takes the form"),
        ("keep", 4, "the line is not whole"),
        ("draw top 3", 0, "needs what to rank by"),
        ("draw top 3 by a DESC", 14, "already says which end"),
        ("draw first 2.5", 11, "whole"),
        ("draw random 101 percent", 12, "100 percent"),
        ("draw rows 5 to 3", 10, "backwards"),
        ("draw every 0", 11, "counted from 1"),
        ("draw chance 2", 12, "between 0 and 1"),
        ("draw first 3 seed 7", 0, "not seed"),
        ("draw random 3 seed 7 seed 8", 0, "twice"),
        ("keep a 5. = 1", 7, "cannot stand here"),
        ("keep 1,000 = a", 5, "no marks between its thousands"),
        ("", 0, "starts with one of"),
    ],
)
def test_an_error_has_its_place(text: str, start: int, says: str) -> None:
    with pytest.raises(ListError, match=says) as caught:
        parse_statement(text)
    assert caught.value.start == start


@pytest.mark.parametrize(
    "text",
    [
        "look order a",
    ],
)  # fmt: skip
def test_what_is_not_there_yet_says_so(text: str) -> None:
    with pytest.raises(NotYetError, match="does not (have|take|order)"):
        parse_statement(text)


def test_words_are_only_keywords_where_one_could_stand() -> None:
    statement = parse_statement("columns columns, without, as AS as, all without order")
    assert isinstance(statement.body, Columns)
    assert [item.column.name for item in statement.body.items[:3]] == ["columns", "without", "as"]  # type: ignore[attr-defined]


def test_person_is_one_word() -> None:
    statement = parse_statement("draw first 3 per person")
    assert isinstance(statement.body, Draw)
    assert statement.body.per == (t.Name("person"),)


def test_the_grammar_has_no_conflict(caplog: pytest.LogCaptureFixture) -> None:
    import logging

    from lark import Lark, logger

    logger.setLevel(logging.DEBUG)
    with caplog.at_level(logging.DEBUG, logger=logger.name):
        Lark(grammar_text(), parser="lalr", start="statement", debug=True, maybe_placeholders=False)
    assert "conflict" not in caplog.text.lower()


@given(st.text(alphabet="keepdrop =<>'\"()/*-,.;:#0a%\n&|“é", max_size=40))
def test_no_text_breaks_the_parser(text: str) -> None:
    for verb in ("keep ", "order ", "columns ", "draw ", ""):
        try:
            parse_statement(verb + text)
        except ListError as error:
            assert 0 <= error.start <= error.end <= len(verb + text) + 1


def test_brackets_without_end_are_an_error_and_not_a_crash() -> None:
    try:
        parse_statement("keep " + "(" * 3000 + "a" + ")" * 3000)
    except ListError as error:
        assert "nested" in str(error)


def test_a_long_list_of_values_is_read_as_a_short_one_is() -> None:
    values = ["'oak'", "'it''s'", "-2.5", "7", "''", "'a, b'"] * 20
    long = parse_statement(f"keep a IN ({', '.join(values)}) AND b = 1")
    (asked, _) = long.body.condition.items  # type: ignore[attr-defined]
    each = [parse_statement(f"keep a IN ({value})").body.condition.items[0] for value in values]  # type: ignore[attr-defined]
    assert list(asked.items) == each
    text = statement_text(long)
    assert parse_statement(text) == long
    for value, item in zip(values, asked.items, strict=True):
        start, end = item.span
        assert f"keep a IN ({', '.join(values)}) AND b = 1"[start:end] == value


@pytest.mark.parametrize(
    "line",
    [
        "keep a IN cut ''",
        "keep (a, b) NOT IN cut '' column c",
        "bring x from '' by a",
        "bring x from cut '' by a",
        "save ''",
    ],
)
def test_an_empty_name_in_quotes_is_refused_wherever_one_stands(line: str) -> None:
    with pytest.raises(ListError) as met:
        parse_statement(line)
    assert met.value.start is not None
    assert "'" not in line[: met.value.start], "it points at the quotes, or at what they belong to"
