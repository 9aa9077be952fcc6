"""One fact in one place: what is added to a table from outside the package works everywhere it must appear."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import click
import pytest

from commands import yardcut
from yardcut.cli.sql import sql
from yardcut.core.expressions.frame import Frame
from yardcut.core.formats import FORMATS, Format
from yardcut.core.language.helping.completing_lines import Frequent, complete
from yardcut.core.language.helping.forms import form_for
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.save_options import SAVE_OPTIONS, SaveOption
from yardcut.core.language.syntax.save_words import parse_save_words
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.formats.json_records import JsonFile
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sql.dialects import DIALECTS, Dialect
from yardcut.core.writers.plans import Plan
from yardcut.tui.cards.files.saving import SavingCard

MAGIC = b'{"tally_of_the_yard": 1}\n'
STAMP: SaveOption[str | None] = SaveOption(
    "stamp", "stamped by", None, "text", frozenset(["yard"]), "stamped by 'Anna'", "who wrote it", "stamp",
    ((None, "nobody"), ("Anna", "Anna")),
)  # fmt: skip


def write_yard(piece: Frame, path: Path, plan: Plan, token: CancelToken, progress: Progress) -> None:
    """Write a slice as objects of JSON below a first line of its own."""
    names = [column.name for column in piece.columns]
    with path.open("wb") as file:
        file.write(MAGIC)
        for _, vectors in piece.blocks(token, progress, 100):
            for row in zip(*(vector.texts() for vector in vectors), strict=True):
                said = {"stamp": plan.options[STAMP]} if plan.options[STAMP] else {}
                file.write(json.dumps({**dict(zip(names, row, strict=True)), **said}).encode() + b"\n")


def count_yard(path: Path, plan: Plan) -> int:
    """Count its rows."""
    return len(path.read_bytes().splitlines()) - 1


def read_yard(path: Path, spec: SourceSpec, token: CancelToken) -> list[JsonFile]:
    """Open one: its rows are what stands below."""
    inner = path.with_suffix(".inner")
    inner.write_bytes(path.read_bytes().removeprefix(MAGIC))
    return [JsonFile(inner, spec)]


@pytest.fixture
def yard() -> Iterator[Format]:
    """A format and an option that nobody has heard of."""
    here = __name__
    form = Format(
        "yard", (".yard",), "a yard book", lambda head: head.startswith(MAGIC), f"{here}:read_yard",
        write=f"{here}:write_yard", count=f"{here}:count_yard",
    )  # fmt: skip
    before = dict(FORMATS)
    FORMATS.clear()
    FORMATS.update({"yard": form, **before})
    SAVE_OPTIONS[STAMP.name] = STAMP  # type: ignore[assignment] # as in the table
    yield form
    FORMATS.clear()
    FORMATS.update(before)
    del SAVE_OPTIONS[STAMP.name]


def test_a_format_is_written_and_read_by_its_ending_and_by_its_content(yard: Format, tmp_path: Path) -> None:
    (tmp_path / "rows.csv").write_text("species,boards\noak,3\nash,4\noak,5\n")
    (tmp_path / "oak.cut").write_text(
        "yardcut 1\nsource 'rows.csv'\n\ncut \"yard\"\n  keep species = 'oak'\n  save \"oak.yard\" stamped by 'Anna'\n"
    )
    result = yardcut("run", "oak.cut", cwd=tmp_path)
    assert result.returncode == 0, result.stderr
    assert (tmp_path / "oak.yard").read_bytes().startswith(MAGIC)
    (tmp_path / "anything").write_bytes((tmp_path / "oak.yard").read_bytes())
    table = open_table(SourceSpec((str(tmp_path / "anything"),)), CancelToken(), Progress())
    assert [column.name for column in table.columns] == ["species", "boards", "stamp"]
    assert table.rows == 2


def test_an_option_is_read_completed_explained_and_offered(yard: Format) -> None:
    save = parse_save_words("oak.yard stamped by 'Bert'")
    assert save.path == "oak.yard"
    assert save.options.text() == " stamped by 'Bert'"
    completion = complete('save "oak.yard" st', Scope((), ()), lambda column: Frequent())
    assert "stamped by " in [option.text for option in completion.options]
    assert "yard | " in form_for("save")
    assert form_for('save "oak.yard" stamped') == "stamped by 'Anna': who wrote it"
    card = SavingCard(save, (), None)
    assert "stamp" in card._names
    assert ("yard", "yard") in card._choices("format")


def test_a_dialect_is_a_choice_and_says_what_it_can(tmp_path: Path) -> None:
    option = next(each for each in sql.params if each.name == "dialect")
    assert isinstance(option.type, click.Choice)
    assert set(option.type.choices) == set(DIALECTS)
    standard = DIALECTS["postgresql"]
    DIALECTS["yard"] = Dialect(
        "yard", "", standard.types, False, {"CHAR_LENGTH": "letters of {0}"}, {"CONTAINS": "nobody looks there"}
    )
    (tmp_path / "rows.csv").write_text("species,boards\noak,3\n")
    try:
        for condition, said in (
            ("CHAR_LENGTH(species) > 2", "letters of"),
            ("species CONTAINS 'a'", "nobody looks there"),
            ("ABS(boards) > 2", "ABS cannot be said in SQL"),
        ):
            (tmp_path / "a.cut").write_text(f"yardcut 1\nsource 'rows.csv'\n\ncut \"yard\"\n  keep {condition}\n")
            option.type = click.Choice(list(DIALECTS))
            result = yardcut("sql", "a.cut", "--for", "yard", cwd=tmp_path)
            assert said in result.stdout + result.stderr
    finally:
        del DIALECTS["yard"]
        option.type = click.Choice(list(DIALECTS))
