"""Rows from all over a file say about how many there will be; where they could be wrong they say nothing."""

from __future__ import annotations

import csv
import gzip
import random
from pathlib import Path

import pytest

from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.looking.estimated_counts import estimated_counts
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources import sampled_places as module
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.sampled_places import sampled_places
from yardcut.core.sources.spec import FormLine, SourceSpec

WOODS = ("oak", "ash", "larch", "beech", "yew")
ROWS = 40_000


@pytest.fixture(autouse=True)
def _small_files_too(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "_LEAST_BYTES", 1000)
    monkeypatch.setattr(module, "_PLACE_BYTES", 1 << 11)


def packs(path: Path, *, note: str = "dry", delimiter: str = ",", above: str = "") -> Path:
    chance = random.Random(3)
    with open(path, "w", newline="") as file:
        file.write(above)
        out = csv.writer(file, delimiter=delimiter)
        out.writerow(("place", "species", "boards", "price", "note"))
        for row in range(ROWS):
            price = "" if chance.random() < 0.1 else round(chance.random() * 90, 2)
            out.writerow((row, chance.choice(WOODS), chance.randrange(120), price, note))
    return path


def estimates(spec: SourceSpec, *lines: str) -> list[int | None] | None:
    table = open_table(spec, first_rows=100)
    places = sampled_places(spec.paths(), spec, table, CancelToken())
    if places is None:
        return None
    bound = bind_cut(Cut("", tuple(map(Line, lines))), places.table)
    return estimated_counts(places, bound, Executor(LocalRunner(places.table)), CancelToken())


def counts(spec: SourceSpec, *lines: str) -> list[int]:
    table = open_table(spec)
    return [
        table.rows,
        *(result.rows.count for result in Executor(LocalRunner(table)).run(Cut("", tuple(map(Line, lines))))),
    ]


@pytest.mark.few(3)
@pytest.mark.parametrize(
    "lines",
    [
        ["keep species = 'oak'"], ["keep boards > 60", "drop price < 20", "keep species IN ('oak', 'yew')"],
        ["drop price IS NULL", "off keep boards > 100", "keep price > 40"], ["keep place >= 0"],
    ],
)  # fmt: skip
@pytest.mark.parametrize(("delimiter", "above"), [(",", ""), (";", "made on Monday\n\n")])
def test_estimates_are_near(tmp_path: Path, lines: list[str], delimiter: str, above: str) -> None:
    spec = SourceSpec.of(packs(tmp_path / "yard.csv", delimiter=delimiter, above=above))
    if above:
        spec = spec.with_line(FormLine(None, skip=2))
    found, true = estimates(spec, *lines), counts(spec, *lines)
    assert found is not None
    assert len(found) == len(true)
    for about, count in zip(found, true, strict=True):
        assert about == pytest.approx(count, rel=0.15)
        assert about is not None
        assert len(str(about).rstrip("0")) <= 2


def test_nothing_is_estimated_that_the_places_do_not_tell(tmp_path: Path) -> None:
    spec = SourceSpec.of(packs(tmp_path / "yard.csv"))
    for line in ("keep place < 4000", "keep place > 39000", "keep place = 7", "keep boards = 500"):
        assert estimates(spec, line) == [40_000, None], line
    for line in ("draw first 5", "keep price > AVG(price)", "order price", "keep boards > 'x'", "tally COUNT(*)"):
        assert estimates(spec, line, "keep boards > 5") == [40_000], line


def test_a_stack_is_estimated_as_one_file(tmp_path: Path) -> None:
    text = packs(tmp_path / "yard.csv").read_text()
    header, *rows = text.splitlines(keepends=True)
    (tmp_path / "stack").mkdir()
    for number, (start, end) in enumerate([(0, 2_000), (2_000, 30_000), (30_000, 30_010), (30_010, ROWS)]):
        (tmp_path / "stack" / f"{number}.csv").write_text(header + "".join(rows[start:end]))
    spec = SourceSpec.of(tmp_path / "stack" / "*.csv")
    lines = ["keep species = 'oak'", "keep boards > 60"]
    found, true = estimates(spec, *lines), counts(spec, *lines)
    assert found is not None
    assert all(about == pytest.approx(count, rel=0.15) for about, count in zip(found, true, strict=True)), found
    assert estimates(spec, "keep place < 4000") == [40_000, None]
    (tmp_path / "stack" / "3.csv").write_text(text.replace("price,note", "note,price"))
    assert estimates(spec) is None, "other columns"
    (tmp_path / "stack" / "3.csv").write_bytes(gzip.compress(text.encode()))
    assert estimates(spec) is None, "one cannot be entered in the middle"


@pytest.mark.long
def test_a_file_that_cannot_be_entered_in_the_middle_says_nothing(tmp_path: Path) -> None:
    plain = packs(tmp_path / "yard.csv")
    (tmp_path / "yard.csv.gz").write_bytes(gzip.compress(plain.read_bytes()))
    assert estimates(SourceSpec.of(tmp_path / "yard.csv.gz")) is None
    assert estimates(SourceSpec.of(packs(tmp_path / "ends.csv", note="two\nlines"))) is None
    assert estimates(SourceSpec.of(packs(tmp_path / "commas.csv", note="a, b, and\nc"))) is None
    assert estimates(SourceSpec.of(packs(tmp_path / "quoted.csv", note='a "dry", one'))) == [40_000]
    text = plain.read_text()
    (tmp_path / "wide.csv").write_text(text.replace("\n17000,", "\n\n17000,").replace("\n625,", "\n625,1,"))
    assert estimates(SourceSpec.of(tmp_path / "wide.csv")) in (None, [40_000])
    (tmp_path / "old.csv").write_bytes(text.replace("oak", "chêne").encode("latin-1"))
    assert estimates(SourceSpec.of(tmp_path / "old.csv")) is None
    (tmp_path / "returns.csv").write_text(text.replace("\n", "\r"), newline="")
    assert estimates(SourceSpec.of(tmp_path / "returns.csv")) is None


def test_a_small_file_is_read_sooner_than_looked_at(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.undo()
    assert estimates(SourceSpec.of(packs(tmp_path / "yard.csv"))) is None
