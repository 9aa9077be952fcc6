from dataclasses import replace
from pathlib import Path

import pytest

from helpers import YARD_SCOPE
from yardcut.core.language.helping.completing_lines import Frequent, complete
from yardcut.core.language.helping.forms import form_for
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.verbs.all_verbs import VERBS


def values(column: ShownColumn) -> Frequent:
    known = {"species": (("oak", 900), ("Oak", 20), ("it's", 1)), "grade": (("A", 5),)}
    return Frequent(known.get(column.name, ()))


def offered(text: str) -> list[str]:
    return [option.text for option in complete(text, YARD_SCOPE, values).options]


def test_a_line_starts_with_a_verb() -> None:
    assert offered("") == [
        "keep ",
        "drop ",
        "make ",
        "bring ",
        "order ",
        "draw ",
        "columns ",
        "tally ",
        "save ",
        "from ",
        "dial ",
    ]
    assert offered("dr") == ["drop ", "draw "]


def test_columns_come_with_kind_and_values() -> None:
    options = complete("keep sp", YARD_SCOPE, values).options
    assert options[0].text == "species"
    assert options[0].detail == "text  oak, Oak, it's"
    assert offered("keep moist")[:3] == ["moisture_pct", "moisture_d01", "moisture_d02"]
    assert offered('order "inv')[0] == '"invoice no"'


def test_a_fragment_from_the_middle_finds_a_column() -> None:
    assert offered("keep pct") == ["moisture_pct"]


def test_values_are_offered_where_a_column_is_compared() -> None:
    assert offered("keep species = ")[:2] == ["'oak'", "'Oak'"]
    assert offered("keep species = 'it")[0] == "'it''s'"
    assert offered("keep species IN ('oak', 'O")[:2] == ["'oak'", "'Oak'"]
    assert offered("keep species = 'oak' AND grade = ")[0] == "'A'"


def test_words_are_offered_where_they_could_stand() -> None:
    assert "BETWEEN " in offered("keep length_mm ")
    assert offered("keep length_mm > 3 a") == ["AND "]
    assert "per " in offered("draw first 3 ")
    assert "DESC " in offered("order species ")
    assert "without " in offered("columns all ")


def test_a_completion_replaces_only_what_was_begun() -> None:
    assert complete("keep species = 'o", YARD_SCOPE, values).start == len("keep species = ")
    assert complete("keep gra", YARD_SCOPE, values).start == len("keep ")


def test_every_form_has_an_example_that_parses() -> None:
    for form in VERBS.values():
        parse_statement(form.example)
        assert form.form() in form_for(form.word)
    assert form_for("").startswith("start with ")
    assert form_for("gnaw").startswith("start with ")
    assert "random" in form_for("draw random 5")
    assert "both ends" in form_for("keep a BETWEEN 1")


def test_a_tally_is_completed_from_its_measures_to_its_groups() -> None:
    assert offered("tally ")[:2] == ["AVG(", "SUM("]
    assert offered("tally COUNT(*), ")[:1] == ["AVG("]
    assert offered("tally SUM(")[0] not in ("AVG(", "SUM(")
    assert offered("tally COUNT(*) ") == ["per ", "AS ", "along ", "FILTER (WHERE "]
    assert "along " in offered("tally COUNT(*) per species ")


@pytest.fixture
def beside(tmp_path: Path) -> Scope:
    from yardcut.core.cutlist.model import FurtherSource
    from yardcut.core.run.executing.further_sources import FurtherSources

    (tmp_path / "mills.csv").write_text("id,name\n1,Alder\n")
    (tmp_path / "asked.txt").write_text("1\n")
    named = (FurtherSource("others", ("mills.csv",)),)
    return replace(YARD_SCOPE, further=FurtherSources(tmp_path, named, cuts=("winter oak",)))


@pytest.mark.parametrize(
    ("text", "first", "others"),
    [
        ("keep species IN ", "(", ["others ", 'cut "winter oak" ', '"asked.txt"', '"mills.csv"']),
        ('keep species IN "as', '"asked.txt"', []),
        ("bring ", "from ", ["all "]),
        ("bring name AS mill from ", "others ", ['cut "winter oak" ', '"mills.csv"']),
        ("bring name from mi", '"mills.csv"', []),
        ('bring name from "mills.csv" by mill_id = ', "id", ["name"]),
        ('keep ticket IN "mills.csv" column n', "name", []),
        ("bring name from others by mill_id = id fi", "first match ", []),
    ],
)
def test_second_tables_and_their_columns_are_offered(beside: Scope, text: str, first: str, others: list[str]) -> None:
    found = [option.text for option in complete(text, beside, lambda column: Frequent()).options]
    assert found[0] == first
    assert set(others) <= set(found)
    assert "species" not in found
