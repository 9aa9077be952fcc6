from pathlib import Path

import pytest

from yardcut.core.errors import SourceError
from yardcut.core.sources.form.delimited_form import Form, column_names
from yardcut.core.sources.form.guessing_form import guess_form
from yardcut.core.sources.form.preview import read_preview
from yardcut.core.values.kinds import Kind


def test_the_delimiter_that_gives_even_rows_wins() -> None:
    assert guess_form(Path("x"), b"a;b;c\n1,5;2,5;x\n3,5;4,5;y\n") == Form(";", ",", "utf-8")
    assert guess_form(Path("x"), b"a,b\n1;2,3\n4,5\n").delimiter == ","
    assert guess_form(Path("x"), b"one column\nno delimiter\n").delimiter == ","
    assert Form(";", ",", "cp1252").words() == "semicolon between cells, decimal comma, cp1252"


def test_names_taken_further_right_are_skipped() -> None:
    assert column_names(["a", "a", "a_2", "a"]) == ["a", "a_3", "a_2", "a_4"]
    assert column_names(["", "column_1", ""]) == ["column_1_2", "column_1", "column_3"]


def test_a_preview_has_names_kinds_and_rows(yard: Path) -> None:
    preview = read_preview(yard / "yard_2029.csv")
    assert preview.form == Form(";", ",", "cp1252")
    kinds = dict(zip(preview.names, preview.kinds, strict=True))
    assert (kinds["ticket"], kinds["length_mm"], kinds["moisture_pct"]) == (Kind.TEXT, Kind.INTEGER, Kind.NUMBER)
    assert (kinds["felled_on"], kinds["kiln_in"], kinds["reserved"]) == (Kind.DATE, Kind.TIMESTAMP, Kind.BOOLEAN)
    assert 100 <= len(preview.rows) <= 204


def test_a_preview_of_nothing_says_so(tmp_path: Path) -> None:
    (tmp_path / "blank.csv").write_text("\n\n")
    with pytest.raises(SourceError, match="only blank lines"):
        read_preview(tmp_path / "blank.csv")
