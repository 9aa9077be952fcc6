"""Options of a target: written as a save line has them and read again, offered, explained and refused by their table."""

from __future__ import annotations

from pathlib import Path

import pytest

from yardcut.core.errors import ListError, TargetError
from yardcut.core.formats import written_formats
from yardcut.core.language.helping.forms import form_for
from yardcut.core.language.save_options import DELIMITER, SAVE_OPTIONS
from yardcut.core.language.syntax.save_words import parse_save_words
from yardcut.core.language.write_options import NO_OPTIONS, WriteOptions
from yardcut.core.writers.plans import plan_of

OTHER = {
    "delimiter": ";", "decimal": ",", "quote": "|", "encoding": "cp1252", "header": False, "quoting": "all",
    "line_ends": "crlf", "missing": "-", "guard": True, "compression": "snappy", "group_rows": 5000, "table": "oak",
    "with_list": True,
}  # fmt: skip


@pytest.mark.parametrize("name", list(SAVE_OPTIONS))
def test_each_is_said_by_itself_and_read_again(name: str) -> None:
    options = WriteOptions.of({name: OTHER[name]})
    for form in written_formats():
        path = f"x{form.endings[0]}"
        assert parse_save_words(f'"{path}"{options.text()}').options == options
        if SAVE_OPTIONS[name].is_of(form.name):
            assert (
                plan_of(Path(path), None, options.with_value(DELIMITER, "|") if name == "decimal" else options).said[
                    SAVE_OPTIONS[name]
                ]
                == OTHER[name]
            )
        else:
            with pytest.raises(TargetError, match=SAVE_OPTIONS[name].words):
                plan_of(Path(path), None, options)


@pytest.mark.parametrize("name", list(SAVE_OPTIONS))
def test_its_form_is_read_and_explained_where_it_is_typed(name: str) -> None:
    option = SAVE_OPTIONS[name]
    assert [each.name for each in parse_save_words(f'"x" {option.form}').options.options()] == [name]
    assert option.says in form_for(f'save "x" {option.words.split()[0]}')


@pytest.mark.parametrize("name", list(SAVE_OPTIONS))
def test_the_manual_has_its_form_and_what_it_says(name: str) -> None:
    option = SAVE_OPTIONS[name]
    manual = (Path(__file__).parents[3] / "docs" / "language.md").read_text(encoding="utf-8")
    of = ", ".join(form.name for form in written_formats() if option.is_of(form.name)) if option.formats else "all"
    assert f"| `{option.form}` | {of} | {option.says} |" in manual


def test_nothing_is_said_of_what_is_usual() -> None:
    usual = WriteOptions.of({option.name: option.usual for option in SAVE_OPTIONS.values()})
    assert usual == NO_OPTIONS
    assert usual.text() == ""


@pytest.mark.parametrize("text", ["row groups of 0", "row groups of x", "quote 'ä'", "delimiter 'ab'", "encoding 'no'"])
def test_a_value_it_does_not_take_is_refused(text: str) -> None:
    with pytest.raises(ListError):
        parse_save_words(f'"x.csv" {text}')
