"""Files of the web and of buckets: fetched whole or not at all, whatever their servers do, and known again."""

from __future__ import annotations

import gzip
import os
import threading
from collections.abc import Iterator
from dataclasses import dataclass, field
from email.utils import formatdate
from http.server import BaseHTTPRequestHandler
from pathlib import Path

import pytest

from bucket_server import a_bucket
from commands import yardcut
from helpers import run_lines
from web_server import files_on_the_web, served
from yardcut.core.errors import SourceError, StoppedError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere import addresses, extras, web
from yardcut.core.sources.elsewhere.standing import let_be_read_anew
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store import own_folders
from yardcut.core.sources.store.own_folders import sweep

pytest.importorskip("requests")
ROWS = 20_000
CONTENT = b"ticket,boards\n" + b"".join(b"T%05d,%d\n" % (row, row % 90) for row in range(ROWS))


@dataclass
class Yard:
    """What a server gives, and the faults planted in it, by request; ``asked`` are the headers of each."""

    content: bytes = CONTENT
    tag: str = '"one"'
    changed: float = 1_900_000_000.0
    faults: list[str] = field(default_factory=list)
    asked: list[dict[str, str]] = field(default_factory=list)
    address: str = ""
    sends: list[int] = field(default_factory=list)


def _handler(yard: Yard) -> type[BaseHTTPRequestHandler]:
    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            yard.asked.append(dict(self.headers))
            fault = yard.faults.pop(0) if yard.faults else ""
            if fault.isdecimal():
                self.send_error(int(fault))
                return
            if fault == "another":
                yard.content, yard.tag = yard.content.replace(b"T", b"U"), '"another"' if yard.tag else ""
                yard.changed += 100 if yard.changed else 0
            if yard.tag and self.headers.get("If-None-Match") == yard.tag:
                self.send_response(304)
                self.end_headers()
                return
            start = 0
            wanted = self.headers.get("Range", "")
            if (
                wanted
                and self.headers.get("If-Range") in (yard.tag, formatdate(yard.changed, usegmt=True))
                and fault != "no ranges"
            ):
                start = int(wanted.removeprefix("bytes=").rstrip("-"))
            body = yard.content[start:]
            self.send_response(206 if start else 200)
            if start:
                self.send_header("Content-Range", f"bytes {start}-{len(yard.content) - 1}/{len(yard.content)}")
            if fault != "no length":
                self.send_header("Content-Length", str(len(body)))
            if yard.tag:
                self.send_header("ETag", yard.tag)
            if yard.changed:
                self.send_header("Last-Modified", formatdate(yard.changed, usegmt=True))
            self.end_headers()
            if fault in ("cut", "no ranges"):
                body = body[: len(body) // 3]
            yard.sends.append(len(body))
            if fault == "slow":
                self.wfile.write(body[:100])
                self.wfile.flush()
                threading.Event().wait(8)
                return
            self.wfile.write(body)

        def log_message(self, *_: object) -> None:
            pass

    return Handler


@pytest.fixture
def yard(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Iterator[Yard]:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    monkeypatch.setattr(web, "FIRST_WAIT_SECONDS", 0.01)
    found = Yard()
    with served(_handler(found)) as address:
        found.address = f"{address}/2031/packs.csv"
        yield found
    addresses.read_all_anew()


def boards(address: str) -> int:
    return run_lines(open_table(SourceSpec((address,))), "keep boards = 7")[-1].rows.count


WANTED = sum(row % 90 == 7 for row in range(ROWS))


def test_a_file_is_fetched_once_and_known_again(yard: Yard) -> None:
    assert boards(yard.address) == boards(yard.address) == WANTED
    assert len(yard.asked) == 1
    before = open_table(SourceSpec((yard.address,))).folder
    addresses.read_all_anew()  # as another process would
    assert boards(yard.address) == WANTED
    assert len(yard.asked) == 2
    assert yard.sends == [len(CONTENT)]  # the second time nothing was sent
    assert open_table(SourceSpec((yard.address,))).folder == before  # and nothing was read again


def test_what_nobody_asked_for_in_a_week_leaves_the_cache(yard: Yard, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(own_folders, "_SWEPT_SECONDS", 0.0)
    boards(yard.address)
    folder = addresses.file_of(yard.address).parent
    sweep()
    assert folder.exists()
    os.utime(folder / "about.json", (0, 0))
    sweep()
    assert not folder.exists()
    addresses.read_all_anew()
    assert boards(yard.address) == WANTED


def test_another_file_at_the_address_is_read_when_it_is_asked_for(yard: Yard) -> None:
    spec = SourceSpec((yard.address,))
    first = open_table(spec)
    yard.content, yard.tag = b"ticket,boards\nT1,7\n", '"two"'
    assert open_table(spec).rows == first.rows
    let_be_read_anew(spec)
    assert open_table(spec).rows == 1


@pytest.mark.few(7)
@pytest.mark.parametrize(
    "faults",
    [
        ["cut"], ["cut", "cut", "cut", "cut"], ["503", "cut", "502"], ["cut", "no ranges"], ["no length"], ["cut", "another"],
        ["cut", "503", "another", "cut"],
    ],
    ids=" ".join,
)  # fmt: skip
@pytest.mark.parametrize("says", ["tag", "date", "weak", "nothing"])
def test_a_connection_that_breaks_is_tried_again_and_never_gives_half_a_table(
    yard: Yard, faults: list[str], says: str
) -> None:
    yard.faults = list(faults)
    yard.tag = {"tag": '"one"', "weak": 'W/"one"'}.get(says, "")
    yard.changed = 0.0 if says == "nothing" else yard.changed
    table = open_table(SourceSpec((yard.address,)))
    path = addresses.file_of(yard.address)
    assert path.read_bytes() == yard.content
    assert table.rows == ROWS
    assert not list(path.parent.glob("*.part"))
    if faults == ["cut"] and says in ("tag", "date"):
        assert sum(yard.sends) == len(CONTENT)  # it went on from where it broke


@pytest.mark.parametrize(
    ("faults", "said"),
    [
        (["403"], "403 Forbidden; the standard place"), (["404"], "404 Not Found; check the address"), (["401"], "401 Unauthorized"),
        (["cut"] * 9, "it was tried 5 times"), (["500"] * 9, "it was tried 5 times"),
    ],
)  # fmt: skip
def test_what_cannot_be_had_is_said_and_nothing_is_kept(yard: Yard, faults: list[str], said: str) -> None:
    yard.faults, yard.tag, yard.changed = faults, "", 0.0
    with pytest.raises(SourceError) as refused:
        open_table(SourceSpec((yard.address,)))
    assert said in str(refused.value)
    assert not addresses.file_of(yard.address).exists()


def test_a_slow_server_is_left_when_asked(yard: Yard, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(web, "_SECONDS", (5.0, 1.0))
    yard.faults = ["slow"] * 9
    token = CancelToken()
    threading.Timer(0.5, token.cancel).start()
    with pytest.raises(StoppedError):
        open_table(SourceSpec((yard.address,)), token, Progress())


def test_where_the_client_is_missing_the_extra_is_named(yard: Yard, monkeypatch: pytest.MonkeyPatch) -> None:
    def without(name: str) -> object:
        raise ImportError(name)

    monkeypatch.setattr(extras, "import_module", without)
    with pytest.raises(SourceError, match=r"requests is not installed.*pip install 'yardcut\[web\]'"):
        open_table(SourceSpec((yard.address,)))


def test_a_host_that_is_not_there_is_said(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(web, "FIRST_WAIT_SECONDS", 0.01)
    done = yardcut("cut", "http://127.0.0.1:1/packs.csv", "-l", "draw first 1", cwd=tmp_path)
    assert (done.returncode, "the connection was refused" in done.stderr) == (1, True)


def test_cells_leave_as_they_came_and_compressed_files_are_opened(yard: Yard, tmp_path: Path) -> None:
    import gzip

    yard.content = gzip.compress(b"ticket,price\nT1,1.50\nT2,02.0\n")
    yard.address += ".gz"
    done = yardcut("cut", yard.address, "-l", "keep ticket > 'T0'", cwd=tmp_path)
    assert (done.returncode, done.stdout) == (0, "ticket,price\nT1,1.50\nT2,02.0\n")


def test_a_password_of_the_web_is_used_and_kept_nowhere(yard: Yard, tmp_path: Path) -> None:
    with_secret = yard.address.replace("http://", "http://anna:sesame@")
    (tmp_path / "a.cut").write_text(
        f'yardcut 1\nsource "{with_secret}"\ncut "x"\n  draw first 2\n  save "a.parquet" with list\n'
    )
    done = yardcut("run", "a.cut", cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    assert yard.asked[0]["Authorization"].startswith("Basic ")
    (tmp_path / "a.cut").unlink()
    written = [path for path in tmp_path.rglob("*") if path.is_file()]
    assert written
    assert not [path for path in written if b"sesame" in path.read_bytes()]


# buckets


@pytest.fixture(scope="module")
def bucket() -> Iterator[str]:
    with a_bucket("yard") as files:
        for year in (2029, 2030, 2031):
            with files.open_output_stream(f"yard/packs/yard_{year}.csv") as out:
                out.write(b"ticket,year\n" + b"".join(b"T%d,%d\n" % (row, year) for row in range(50)))
        with files.open_output_stream("yard/packs/deep/yard_2028.csv") as out:
            out.write(b"ticket,year\nT0,2028\n")
        yield "s3://yard/packs"


@pytest.mark.long
def test_an_object_and_a_pattern_of_a_bucket_are_sources(
    bucket: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    assert open_table(SourceSpec((f"{bucket}/yard_2030.csv",))).rows == 50
    stack = open_table(SourceSpec((f"{bucket}/yard_20*.csv",)))
    assert (stack.rows, [file.label for file in stack.info.files]) == (
        150,
        [f"yard_{year}.csv" for year in (2029, 2030, 2031)],
    )
    done = yardcut("cut", f"{bucket}/yard_20*.csv", "-l", "tally COUNT(*) per year", cwd=tmp_path)
    assert done.stdout == "year,count\n2029,50\n2030,50\n2031,50\n"
    for absent in ("yard_1999.csv", "spruce*.csv"):
        with pytest.raises(SourceError, match=r"no such object|matches"):
            open_table(SourceSpec((f"{bucket}/{absent}",)))
    addresses.read_all_anew()


@pytest.mark.long
def test_a_compressed_object_is_fetched_as_it_is(bucket: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from pyarrow import fs

    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    packed = gzip.compress(b"ticket,year\n" + b"T1,2031\n" * 5000)
    files = fs.S3FileSystem(endpoint_override=os.environ["AWS_ENDPOINT_URL"])
    with files.open_output_stream("yard/packs/packed.csv.gz", compression=None) as out:
        out.write(packed)
    assert open_table(SourceSpec((f"{bucket}/packed.csv.gz",))).rows == 5000
    addresses.read_all_anew()


def test_second_tables_and_comparisons_may_stand_on_the_web(tmp_path: Path) -> None:
    (tmp_path / "packs.csv").write_text("ticket,mill\nT1,M1\nT2,M2\nT3,M1\n")
    (tmp_path / "later.csv").write_text("ticket,mill\nT1,M1\nT2,M9\nT3,M1\n")
    (tmp_path / "mills.csv").write_text("id,name\nM1,Mere\n")
    (tmp_path / "asked.txt").write_text("T1\nT2\n")
    with files_on_the_web(tmp_path) as address:
        done = yardcut(
            "cut", f"{address}/packs.csv?day=1", "-l", f'bring name from "{address}/mills.csv" by mill = id',
            "-l", f'keep ticket IN "{address}/asked.txt"', cwd=tmp_path,
        )  # fmt: skip
        assert (done.returncode, done.stdout) == (0, "ticket,mill,name\nT1,M1,Mere\nT2,M2,\n"), done.stderr
        apart = yardcut("diff", f"{address}/packs.csv", "later.csv", cwd=tmp_path)
        assert (apart.returncode, "T2  mill: M2 → M9" in apart.stdout) == (3, True), apart.stdout + apart.stderr
    addresses.read_all_anew()
