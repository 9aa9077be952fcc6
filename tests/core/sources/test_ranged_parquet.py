"""Parquet files that stay where they stand: the same rows as from a file here, of which only what is wanted comes."""

from __future__ import annotations

import random
import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler
from pathlib import Path

import numpy as np
import pyarrow as pa
import pytest
from pyarrow import parquet

from bucket_server import a_bucket
from commands import yardcut
from helpers import run_lines
from web_server import served
from yardcut.core.errors import SourceError
from yardcut.core.sources.elsewhere import addresses, ranged_files, web
from yardcut.core.sources.elsewhere.standing import let_be_read_anew
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table

pytest.importorskip("requests")
ROWS, GROUP_ROWS = 60_000, 10_000
LINES = [
    ["keep boards > 40", "draw first 5"], ["keep id BETWEEN 31000 AND 31010"], ["drop species = 'oak'", "draw top 7 by price"],
    ["order price DESC", "draw first 9"], ["tally SUM(boards) AS boards per species"], ["draw random 20 seed 4"],
]  # fmt: skip


def write(path: Path, seed: int = 1) -> None:
    chance = np.random.default_rng(seed)
    table = pa.table({
        "id": np.arange(ROWS), "species": np.array(["oak", "ash", "yew"])[chance.integers(0, 3, ROWS)],
        "boards": chance.integers(0, 90, ROWS), "price": chance.random(ROWS), "note": [f"{n * 7919 % 99991}" * 3 for n in range(ROWS)],
    })  # fmt: skip
    parquet.write_table(table, path, row_group_size=GROUP_ROWS, compression="none")


@dataclass
class Yard:
    """What a server gives, and its faults: those of the next requests, and ``refuses`` ranges."""

    content: bytes
    tag: str = '"one"'
    changed: str = ""
    faults: list[str] = field(default_factory=list)
    refuses: bool = False
    sent: int = 0
    address: str = ""


def _handler(yard: Yard) -> type[BaseHTTPRequestHandler]:
    class Handler(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"

        def do_GET(self) -> None:
            fault = yard.faults.pop(0) if yard.faults else ""
            if fault.isdecimal():
                self.send_error(int(fault))
                return
            strong = "" if yard.tag.startswith("W/") else yard.tag
            if (
                self.headers.get("If-Match", strong) != strong
                or self.headers.get("If-Unmodified-Since", yard.changed) != yard.changed
            ):
                self.send_error(412)
                return
            size = len(yard.content)
            wanted = re.fullmatch(r"bytes=(\d+)-(\d*)", self.headers.get("Range", ""))
            first, last = (
                (0, size - 1) if wanted is None else (int(wanted[1]), min(size - 1, int(wanted[2] or size - 1)))
            )
            is_range = wanted is not None and not yard.refuses
            body = yard.content[first : last + 1] if is_range else yard.content
            self.send_response(206 if is_range else 200)
            if is_range:
                self.send_header("Content-Range", f"bytes {first}-{last}/{size}")
            self.send_header("Content-Length", str(len(body)))
            if yard.tag:
                self.send_header("ETag", yard.tag)
            if yard.changed:
                self.send_header("Last-Modified", yard.changed)
            self.end_headers()
            if fault == "cut":
                self.wfile.write(body[: len(body) // 2])
                self.close_connection = True
                return
            yard.sent += len(body)
            self.wfile.write(body)

        def log_message(self, *_: object) -> None:
            pass

    return Handler


@pytest.fixture
def yard(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Iterator[Yard]:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    monkeypatch.setattr(web, "FIRST_WAIT_SECONDS", 0.01)
    monkeypatch.setattr(ranged_files, "LEAST_BYTES", 1 << 12)
    write(tmp_path / "here.parquet")
    found = Yard((tmp_path / "here.parquet").read_bytes())
    with served(_handler(found)) as address:
        found.address = f"{address}/packs.parquet"
        yield found
    addresses.read_all_anew()


def cells(table: Table, lines: list[str]) -> list[tuple[str | None, ...]]:
    frame = run_lines(table, *lines)[-1].frame
    return list(zip(*frame.page(0, frame.rows.count, range(len(frame.columns))).cells, strict=True))


def here(tmp_path: Path) -> Table:
    return open_table(SourceSpec((str(tmp_path / "here.parquet"),)))


@pytest.mark.few(3)
@pytest.mark.parametrize("lines", LINES, ids=lambda lines: lines[0])
def test_the_rows_are_those_of_a_file_here(yard: Yard, tmp_path: Path, lines: list[str]) -> None:
    spec = SourceSpec((yard.address,))
    assert cells(open_table(spec), lines) == cells(here(tmp_path), lines)
    asked = yard.sent
    assert asked > 0
    let_be_read_anew(spec)
    assert cells(open_table(spec), lines) == cells(here(tmp_path), lines)


def test_only_the_groups_and_columns_that_are_looked_at_come(yard: Yard) -> None:
    table = open_table(SourceSpec((yard.address,)))
    assert table.rows == ROWS
    footer = yard.sent
    assert footer < len(yard.content) / 20
    assert run_lines(table, "keep id BETWEEN 31000 AND 31010")[-1].rows.count == 11
    assert yard.sent - footer <= 8 * GROUP_ROWS * 1.6, "one column of one group: the statistics settle all others"
    yard.sent = 0
    run_lines(table, "keep boards > 40")
    assert yard.sent < len(yard.content) / 3, "one column"


def test_what_is_stored_of_a_column_is_found_by_the_next_run(yard: Yard, tmp_path: Path) -> None:
    words = ("cut", yard.address, "-l", "order boards, id", "-l", "columns id, boards", "-l", "draw first 5")
    first = yardcut(*words, cwd=tmp_path)
    assert first.returncode == 0, first.stderr
    yard.sent = 0
    addresses.read_all_anew()
    again = yardcut(*words, cwd=tmp_path)
    assert again.stdout == first.stdout
    assert yard.sent < len(yard.content) / 20, "the ends and the footer"


def test_another_file_at_the_address_is_an_error_until_it_is_read_anew(yard: Yard, tmp_path: Path) -> None:
    spec = SourceSpec((yard.address,))
    table = open_table(spec)
    write(tmp_path / "here.parquet", 2)
    yard.content, yard.tag = (tmp_path / "here.parquet").read_bytes(), '"two"'
    with pytest.raises(SourceError, match="is another file by now"):
        run_lines(table, "keep boards > 40")
    let_be_read_anew(spec)
    assert cells(open_table(spec), LINES[0]) == cells(here(tmp_path), LINES[0])


@pytest.mark.few(2)
@pytest.mark.parametrize("seed", range(6))
def test_a_connection_that_breaks_is_tried_again(yard: Yard, tmp_path: Path, seed: int) -> None:
    table, chance = open_table(SourceSpec((yard.address,))), random.Random(seed)
    yard.faults = [chance.choice(["cut", "503", ""]) for _ in range(4)]
    assert cells(table, LINES[0]) == cells(here(tmp_path), LINES[0])


@pytest.mark.parametrize(("fault", "said"), [("cut", "it was tried 5 times"), ("403", "403"), ("404", "404")])
def test_what_does_not_come_is_said(yard: Yard, fault: str, said: str) -> None:
    table = open_table(SourceSpec((yard.address,)))
    yard.faults = [fault] * 50
    with pytest.raises(SourceError, match=said):
        run_lines(table, "keep boards > 40")
    yard.faults = []
    assert run_lines(table, "keep boards > 40")[-1].rows.count > 0


@pytest.mark.parametrize("tag", ["", 'W/"weak"'])
def test_a_day_tells_which_file_it_is_where_no_tag_does(yard: Yard, tmp_path: Path, tag: str) -> None:
    yard.tag, yard.changed = tag, "Sat, 01 Mar 2031 10:00:00 GMT"
    table = open_table(SourceSpec((yard.address,)))
    assert cells(table, LINES[1]) == cells(here(tmp_path), LINES[1])
    assert yard.sent < len(yard.content) / 2
    yard.changed = "Sat, 01 Mar 2031 10:00:01 GMT"
    with pytest.raises(SourceError, match="is another file by now"):
        run_lines(table, "keep note LIKE '1%'")


@pytest.mark.parametrize("how", ["no ranges", "no tag", "small", "no parquet"])
def test_any_other_file_is_fetched_whole(yard: Yard, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, how: str) -> None:
    if how == "no ranges":
        yard.refuses = True
    elif how == "no tag":
        yard.tag = ""
    elif how == "small":
        monkeypatch.setattr(ranged_files, "LEAST_BYTES", 1 << 30)
    else:
        yard.content = b"id,boards\n" + b"".join(b"%d,%d\n" % (n, n % 90) for n in range(5000))
    table = open_table(SourceSpec((yard.address,)))
    if how != "no parquet":
        assert cells(table, LINES[0]) == cells(here(tmp_path), LINES[0])
    assert yard.sent >= len(yard.content)
    sent = yard.sent
    run_lines(table, "keep boards > 3")
    assert yard.sent == sent


def test_a_broken_file_is_a_sentence(yard: Yard) -> None:
    yard.content = b"PAR1" + yard.content[4:-400] + bytes(392) + b"....PAR1"
    with pytest.raises(SourceError):
        run_lines(open_table(SourceSpec((yard.address,))), "keep boards > 40")


@pytest.mark.long
def test_objects_of_a_bucket_stay_there(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    monkeypatch.setattr(ranged_files, "LEAST_BYTES", 1 << 12)
    write(tmp_path / "here.parquet")
    with a_bucket("yard") as files:
        for name in ("a", "b"):
            with files.open_output_stream(f"yard/2031/{name}.parquet") as out:
                out.write((tmp_path / "here.parquet").read_bytes())
        spec = SourceSpec(("s3://yard/2031/*.parquet",))
        table = open_table(spec)
        assert table.rows == 2 * ROWS
        kept = [path for path in (tmp_path / "cache").rglob("*.parquet") if path.is_file()]
        assert len(kept) == 2
        assert all(path.stat().st_size < 1000 for path in kept), "no more than what stands for them"
        (tmp_path / "again.parquet").write_bytes((tmp_path / "here.parquet").read_bytes())
        two = open_table(SourceSpec((str(tmp_path / "here.parquet"), str(tmp_path / "again.parquet"))))
        for lines in LINES[:3]:
            assert cells(table, lines) == cells(two, lines)
        write(tmp_path / "here.parquet", 2)
        with files.open_output_stream("yard/2031/a.parquet") as out:
            out.write((tmp_path / "here.parquet").read_bytes())
        with pytest.raises(SourceError, match="is another file by now"):
            run_lines(table, "keep note LIKE '1%'")
    addresses.read_all_anew()
