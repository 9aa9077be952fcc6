"""A slice of few rows of many: only what stands around them is read again, and each cell is what the csv module reads."""

from __future__ import annotations

import csv
import random
from pathlib import Path

import pytest

from thoroughness import examples
from yardcut.core.cutlist.model import Cut, CutList, Line
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.session import Session
from yardcut.core.sources.delimited_blocks.reading_blocks import BlockReader, BytesRead
from yardcut.core.sources.formats import delimited
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.unattended import run_cut
from yardcut.core.writers.targets import RunOptions

ROWS = 8000
TROUBLES = ["", "quoted", "blank", "returns", "encoding"]
"""What stands in some block of a file: nothing, line ends in cells, lines that are no rows, bytes of another encoding."""


@pytest.fixture
def sizes_read(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """The bytes that rows were read again from."""
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", 30_000)
    monkeypatch.setattr(delimited, "_BLOCK_BYTES_PER_COLUMN", 1)
    sizes = list[int]()
    plain = BlockReader._looked_at

    def looked_at(self: BlockReader, content: object) -> BytesRead:
        sizes.append(len(content))  # type: ignore[arg-type]
        return plain(self, content)  # type: ignore[arg-type]

    monkeypatch.setattr(BlockReader, "_looked_at", looked_at)
    return sizes


def written(path: Path, trouble: str, chance: random.Random) -> list[list[str]]:
    """Write a file whose numbers stand as no program would write them; return its rows."""
    rows = [
        [f"{row}", f"{chance.randrange(100)}.{chance.randrange(10)}0", chance.choice(["oak", "ash, sawn", "é", ""])]
        for row in range(ROWS)
    ]
    place = chance.randrange(ROWS)
    if trouble == "quoted":
        rows[place][2] = "two\nlines"
    lines = [",".join(f'"{cell}"' if set(cell) & set(",\n") else cell for cell in row) for row in rows]
    if trouble == "blank":
        lines.insert(place, "")
    end = "\r\n" if trouble == "returns" else "\n"
    content = end.join(["id,price,wood", *lines, ""]).encode()
    if trouble == "encoding":
        rows[place][2] = "ü"
        lines[place] = f"{rows[place][0]},{rows[place][1]},ü"
        content = b"\n".join([b"id,price,wood", *(line.encode() for line in lines), b""])
        content = content.replace(lines[place].encode(), lines[place].encode("cp1252"))
    path.write_bytes(content)
    return rows


@pytest.mark.few(12)
@pytest.mark.parametrize("seed", range(examples(6)))
@pytest.mark.parametrize("trouble", TROUBLES)
@pytest.mark.parametrize(
    "lines", [(), ("columns price, id",), ("order id DESC",), ("make p = id + 1", "order wood, id")]
)
def test_few_rows_leave_as_they_came(
    tmp_path: Path, sizes_read: list[int], trouble: str, seed: int, lines: tuple[str, ...]
) -> None:
    chance = random.Random(f"{trouble} {seed}")
    rows = written(tmp_path / "a.csv", trouble, chance)
    wanted = sorted(chance.sample(range(ROWS), chance.choice([1, 3, 5])) + [0, ROWS - 1][: seed % 3])
    spec = SourceSpec((str(tmp_path / "a.csv"),))
    keep = f"keep id IN ({', '.join(map(str, wanted))})"
    session = Session(spec, CutList(spec.files, spec.lines, (Cut("", tuple(map(Line, (keep, *lines)))),)))
    session.open()
    options = RunOptions(tmp_path / "o.csv", base=tmp_path, replace=True)
    run_cut(session, 0, options, CancelToken(), Progress())
    with open(tmp_path / "o.csv", newline="", encoding="utf-8") as file:
        found = list(csv.reader(file))[1:]
    expected = [rows[row] for row in dict.fromkeys(wanted)]
    if lines == ("order id DESC",):
        expected = expected[::-1]
    if lines == ("columns price, id",):
        expected = [[price, number] for number, price, _ in expected]
    if len(lines) == 2:
        in_order = sorted(expected, key=lambda row: (row[2] == "", row[2].encode(), int(row[0])))
        expected = [[*row, str(int(row[0]) + 1)] for row in in_order]
    assert found == expected
    whole = (tmp_path / "a.csv").stat().st_size
    assert sizes_read
    if trouble in ("", "encoding"):  # groups of 64 rows; where the bytes are no UTF-8, blocks
        assert sum(sizes_read) < whole / (2 if trouble else 4)
