from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.language.syntax.statements import split_statements, without_comments

LINES = st.lists(
    st.sampled_from(
        ["keep a", "  AND b", "\tdrop c", ") x", "", "   ", "-- note", "  -- deep", "cut \"x\"", "source 'a'", "  'b'",
         "    file column f", "--x", "order a -- why"]
    )
)  # fmt: skip


@given(LINES, st.sampled_from(["\n", "\r\n"]), st.booleans())
def test_no_byte_is_lost(lines: list[str], ending: str, closed: bool) -> None:
    text = ending.join(lines) + (ending if closed else "")
    statements, rest = split_statements(text)
    assert "".join(statement.raw for statement in statements) + rest == text


def test_a_statement_goes_on_over_deeper_lines_and_closing_brackets() -> None:
    text = "keep (a\n  AND b\n-- between\n\n   OR c\n)\ndrop d\n"
    statements, _ = split_statements(text)
    assert [statement.text for statement in statements] == ["keep (a\n  AND b\n-- between\n\n   OR c\n)", "drop d"]


def test_lines_below_a_cut_are_its_own_flush_or_deeper() -> None:
    text = 'cut "a"\n  keep x\n    AND y\ncut "b"\nkeep z\n'
    statements, _ = split_statements(text)
    assert [statement.first_word for statement in statements] == ["cut", "keep", "cut", "keep"]


def test_files_go_on_below_a_source_and_other_lines_are_its_sub_lines() -> None:
    text = "source 'a.csv',\n  'b.csv'\n  file column f\n"
    statements, _ = split_statements(text)
    assert [statement.text for statement in statements] == ["source 'a.csv',\n  'b.csv'", "file column f"]


def test_a_tab_goes_to_the_next_multiple_of_eight() -> None:
    statements, _ = split_statements("    keep a\n\tAND b\n")
    assert len(statements) == 1


def test_places_count_from_one() -> None:
    statements, _ = split_statements("\n-- first\n  keep a\n")
    assert (statements[0].line, statements[0].column) == (3, 3)


def test_comments_go_and_quoted_dashes_stay() -> None:
    assert without_comments("source '-- a' -- b") == "source '-- a' "
    assert without_comments('x "a -- b"') == 'x "a -- b"'
