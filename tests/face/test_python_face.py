"""The Python face: the same rows as the command line, handed over as Arrow; its page of examples is run."""

from __future__ import annotations

import csv
import io
import re
import sqlite3
from pathlib import Path

import pyarrow as pa
import pytest

import yardcut
from commands import yardcut as command

PAGE = Path(__file__).parents[2] / "docs" / "python.md"
ROWS = "ticket,species,grade,boards,price,felled_on,dry\n1,oak,A,3,2.5,2031-01-05,true\n2,Oak,B,,1.0,2030-12-30,\n3,ash,,7,,2031-03-01,false\n4,oak,A,9,4.25,,true\n"


@pytest.fixture
def packs(tmp_path: Path) -> Path:
    path = tmp_path / "packs.csv"
    path.write_text(ROWS)
    return path


def test_a_table_says_what_it_is(packs: Path) -> None:
    table = yardcut.open(packs)
    assert table.names == ("ticket", "species", "grade", "boards", "price", "felled_on", "dry")
    assert table.kinds == ("integer", "text", "text", "integer", "number", "date", "boolean")
    assert (len(table), table.rows, table.notes) == (4, 4, ())
    assert repr(table) == "<yardcut table packs.csv: 4 rows, 7 columns>"


def test_kinds_are_types_and_missing_values_nulls(packs: Path) -> None:
    found = yardcut.open(packs).cut().to_arrow()
    types = [str(field.type) for field in found.schema]
    assert types == ["int64", "string", "string", "int64", "double", "date32[day]", "bool"]
    assert found.column("boards").to_pylist() == [3, None, 7, 9]
    assert found.column("dry").to_pylist() == [True, None, False, True]


@pytest.mark.parametrize(
    ("lines", "statement"),
    [
        (["keep species = 'oak'"], "SELECT * FROM packs WHERE species = 'oak'"),
        (["drop price < 2", "order price DESC"], "SELECT * FROM packs WHERE price >= 2 OR price IS NULL ORDER BY price DESC NULLS LAST"),
        (["tally COUNT(*), SUM(boards) AS boards per species"], "SELECT species, COUNT(*), SUM(boards) FROM packs GROUP BY species ORDER BY MIN(ticket)"),
        (["make worth = boards * price", "columns ticket, worth", "draw first 3"], "SELECT ticket, boards * price FROM packs LIMIT 3"),
    ],
)  # fmt: skip
def test_the_rows_are_those_of_sql(packs: Path, lines: list[str], statement: str) -> None:
    cut = yardcut.open(packs).cut(*lines)
    database = sqlite3.connect(":memory:")
    database.execute(
        "CREATE TABLE packs (ticket INTEGER, species TEXT, grade TEXT, boards INTEGER, price REAL, felled_on TEXT, dry INTEGER)"
    )
    for row in csv.reader(ROWS.splitlines()[1:]):
        values = [None if value == "" else {"true": 1, "false": 0}.get(value, value) for value in row]
        database.execute(f"INSERT INTO packs VALUES ({', '.join('?' * 7)})", values)
    wanted = [tuple(map(str, row)) for row in database.execute(statement)]
    shown = {"True": "1", "False": "0"}
    found = [tuple(shown.get(str(value), str(value)) for value in row.values()) for row in cut.to_arrow().to_pylist()]
    assert found == wanted
    assert cut.count() == len(wanted)


def test_all_ways_hand_over_the_same_rows(packs: Path) -> None:
    cut = yardcut.open(packs).keep("boards IS NOT NULL").order("boards DESC")
    whole = cut.to_arrow()
    assert pa.Table.from_batches(cut.batches(2)).equals(whole)
    assert pa.RecordBatchReader.from_stream(cut).read_all().equals(whole)
    assert [batch.num_rows for batch in cut.batches(2)] == [2, 1]
    again = yardcut.open(whole)  # from memory, and back
    assert again.cut().to_arrow().equals(whole)
    assert again.keep("species = 'ash'").count() == 1


def test_a_cut_is_a_value_and_its_text_a_list(packs: Path, tmp_path: Path) -> None:
    cut = yardcut.open(packs).keep("boards > 1")
    other = cut.drop("species = 'ash'")
    assert cut.lines == ("keep boards > 1",)
    assert (cut.count(), other.count(), len(other)) == (3, 2, 2)
    (tmp_path / "oak.cut").write_text(other.text)
    assert yardcut.load(tmp_path / "oak.cut").to_arrow().equals(other.to_arrow())
    done = command("run", "oak.cut", cwd=tmp_path)
    assert [row["ticket"] for row in csv.DictReader(io.StringIO(done.stdout))] == ["1", "4"]


def test_a_draw_by_chance_is_the_same_each_time_it_is_asked(packs: Path) -> None:
    cut = yardcut.open(packs).draw("random 2")
    assert re.fullmatch(r"draw random 2 seed \d+", cut.lines[0])
    assert cut.to_arrow().equals(cut.to_arrow())


def test_what_a_line_took_and_what_all_of_them_did(packs: Path) -> None:
    cut = yardcut.open(packs).keep("boards > 3").draw("top 1 by price")
    assert cut.offcut(1).column("ticket").to_pylist() == [1, 2]
    assert [(line["rows_in"], line["rows_out"], line["taken_for_want_of_a_value"]) for line in cut.report()] == [
        (4, 2, 1),
        (2, 1, 1),
    ]
    with pytest.raises(yardcut.ListError, match="the cut has no line 3; it has 2"):
        cut.offcut(3)


def test_dials_are_turned(packs: Path, tmp_path: Path) -> None:
    (tmp_path / "l.cut").write_text(
        "yardcut 1\nsource 'packs.csv'\n\ndial best = 1 from 1 to 9\ndial woods = 'oak' from column species\n\ncut \"dear\"\n  keep species IN (:woods)\n  draw top :best by price\n"
    )
    cut = yardcut.load(tmp_path / "l.cut")
    assert cut.count() == 1
    assert cut.with_dials(best=2).count() == 2
    assert cut.with_dials(best=9, woods=["oak", "Oak"]).count() == 3
    with pytest.raises(yardcut.ListError, match="no dial worst"):
        cut.with_dials(worst=1)


def test_errors_have_cause_and_mend_when_the_line_is_written(packs: Path, tmp_path: Path) -> None:
    table = yardcut.open(packs)
    with pytest.raises(yardcut.ListError, match=r"there is no column grad; did you mean grade\?"):
        table.keep("grad = 'A'")
    with pytest.raises(yardcut.ListError, match="'oak' stands in 2 rows: keep species = 'oak'"):
        table.keep("species = oak")
    with pytest.raises(yardcut.SourceError):
        yardcut.open(tmp_path / "nowhere.csv")
    with pytest.raises(yardcut.SourceError, match="int is no source"):
        yardcut.open(3)  # type: ignore[arg-type]
    with pytest.raises(AttributeError):
        _ = yardcut.frame


def test_saving_replaces_nothing_unasked_and_never_the_source(packs: Path, tmp_path: Path) -> None:
    cut = yardcut.open(packs).keep("boards > 1")
    cut.save(tmp_path / "out.csv", "delimiter ';' missing 'none'")
    assert (tmp_path / "out.csv").read_text().splitlines()[2] == "3;ash;none;7;none;2031-03-01;false"
    with pytest.raises(yardcut.TargetError, match="exists"):
        cut.save(tmp_path / "out.csv")
    cut.save(tmp_path / "out.csv", replace=True)
    with pytest.raises(yardcut.YardcutError):
        cut.save(packs, replace=True)
    assert packs.read_text() == ROWS


def test_a_list_that_saves_writes_nothing_when_it_is_only_looked_at(packs: Path, tmp_path: Path) -> None:
    (tmp_path / "l.cut").write_text(
        'yardcut 1\nsource \'packs.csv\'\n\ncut "dear"\n  keep boards > 1\n  save "made.csv"\n'
    )
    cut = yardcut.load(tmp_path / "l.cut")
    assert (cut.count(), len(cut.report()), cut.to_arrow().num_rows) == (3, 2, 3)
    assert not (tmp_path / "made.csv").exists()
    cut.save(tmp_path / "other.csv")
    assert not (tmp_path / "made.csv").exists()
    assert (tmp_path / "other.csv").exists()


def test_a_notebook_shows_lines_and_rows_escaped(tmp_path: Path) -> None:
    (tmp_path / "odd.csv").write_text("<b>name,n\n<script>alert(1)</script>,1\n&amp;,\n")
    shown = yardcut.open(tmp_path / "odd.csv").keep("n IS NULL OR n < 9")._repr_html_()
    assert "<script>" not in shown
    assert "&lt;script&gt;alert(1)&lt;/script&gt;" in shown
    assert "&lt;b&gt;name" in shown
    assert "<code>keep n IS NULL OR n &lt; 9</code>" in shown
    empty = yardcut.open(tmp_path / "odd.csv").keep("n > 5")
    assert "0 rows" in empty._repr_html_()
    assert repr(empty) == "<yardcut cut of odd.csv>\n  keep n > 5"


@pytest.mark.long
def test_the_examples_of_the_page_run(yard: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for path in yard.iterdir():
        (tmp_path / path.name).symlink_to(path)
    monkeypatch.chdir(tmp_path)
    names: dict[str, object] = {}
    for block in re.findall(r"```python\n(.*?)```", PAGE.read_text(encoding="utf-8"), re.DOTALL):
        exec(block, names)
    made = {
        "oak.csv",
        "oak.cut",
        "packs.csv",
        "driest.csv",
        "sample.csv",
        "sums.csv",
        "quarters.csv",
        "dearest-2030.csv",
        "oak-A.csv",
    }
    assert made <= {path.name for path in tmp_path.iterdir()}
    with open("dearest-2030.csv", encoding="utf-8", newline="") as file:
        assert len(list(csv.DictReader(file))) > 50


@pytest.mark.parametrize(
    "line", ["columns all", "order price DESC", 'bring name from "mills.csv" by mill = id', 'keep mill IN "asked.txt"']
)
@pytest.mark.parametrize("here", [".", "lists"])
def test_a_list_read_from_another_source_gives_what_the_command_gives(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, line: str, here: str
) -> None:
    (tmp_path / "lists").mkdir()
    monkeypatch.chdir(tmp_path / here)
    (tmp_path / "lists" / "mills.csv").write_text("id,name\nM1,Mere\n")
    (tmp_path / "lists" / "asked.txt").write_text("M1\n")
    for name, price in (("lists/old.csv", "9.0"), ("new.csv", "7.50")):
        (tmp_path / name).write_text(f"mill,price\nM1,{price}\nM2,12.0\nM1,100.00\n")
    (tmp_path / "lists" / "a.cut").write_text(f'yardcut 1\nsource "old.csv"\ncut "a"\n  {line}\n')
    path, source = tmp_path / "lists" / "a.cut", tmp_path / "new.csv"
    yardcut.load(path, source=source).save(tmp_path / "ours.csv")
    done = command("run", path, "--source", source, "--out", tmp_path / "theirs.csv", cwd=tmp_path / here)
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "ours.csv").read_bytes() == (tmp_path / "theirs.csv").read_bytes()
    assert b"7.50" in (tmp_path / "ours.csv").read_bytes()
