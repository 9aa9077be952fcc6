from hypothesis import example, given, settings

from strategies import statements
from thoroughness import examples
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.lines import statement_text
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.language.verbs.columns import Columns


@given(statements)
@example(t.Statement(Columns((t.OffItem(t.OneColumn(t.Dial("best"), None)),), ()), False))
@settings(max_examples=examples(400), deadline=None)
def test_a_random_tree_printed_and_parsed_again_is_the_same(statement: t.Statement) -> None:
    text = statement_text(statement)
    again = parse_statement(text)
    assert again == statement, text
    assert statement_text(again) == text


def test_names_are_quoted_only_where_they_must_be() -> None:
    assert name_text("price_per_m3") == "price_per_m3"
    assert name_text("order.id") == "order.id"
    assert name_text("Max Temp (C)") == '"Max Temp (C)"'
    assert name_text("null") == '"null"'
    assert name_text('a"b') == '"a""b"'
    assert name_text("line\nbreak") == 'U&"line\\000Abreak"'
