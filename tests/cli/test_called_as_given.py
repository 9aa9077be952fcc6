"""An error of a source names it as it was given, and no place where the program keeps what came."""

from __future__ import annotations

import gzip
import os
import threading
from pathlib import Path

import pytest

from commands import yardcut, yardcut_process
from web_server import files_on_the_web
from yardcut.core.errors import SourceError
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec

BROKEN = {
    "a quote that never closes": b'a,b\n1,"x\n2,y\n',
    "JSON that breaks off": b'[{"a": 1},',
    "no whole gz": gzip.compress(b"a,b\n1,2\n" * 50)[:30],
    "blank lines": b"\n\n",
    "no Parquet": b"PAR1xxxx",
    "no database": b"SQLite format 3\0xxxxxx",
    "no workbook": b"PK\3\4xxxxxx",
    "a picture": b"\x89PNG\r\n\x1a\n" + bytes(range(256)) * 4,
    "nothing": b"",
}


@pytest.mark.few(9)
@pytest.mark.parametrize("content", BROKEN.values(), ids=BROKEN)
@pytest.mark.parametrize("words", [[], ["-l", "draw first 2"], ["-l", "keep a > 0"], ["--store"]], ids=" ".join)
def test_a_pipe_is_named_as_it_was_given(tmp_path: Path, content: bytes, words: list[str]) -> None:
    os.mkfifo(tmp_path / "rows.pipe")
    feeding = threading.Thread(target=lambda: (tmp_path / "rows.pipe").write_bytes(content), daemon=True)
    feeding.start()
    done = yardcut("cut", "rows.pipe", *words, cwd=tmp_path)
    assert done.returncode == 1, done.stdout
    assert done.stderr.startswith(("yardcut: pipe rows.pipe", "yardcut: nothing came from pipe")), done.stderr
    assert "piped-" not in done.stderr


def test_standard_input_is_named_so(tmp_path: Path) -> None:
    done = yardcut_process("cut", "-", cwd=tmp_path, given='a,b\n1,"x\n')
    assert done.stderr.startswith("yardcut: standard input, line 2: a quote opens here")


@pytest.mark.parametrize(
    "content", [each for each in BROKEN.values() if each], ids=[name for name in BROKEN if BROKEN[name]]
)
def test_a_file_of_the_web_is_named_by_its_address(tmp_path: Path, content: bytes) -> None:
    pytest.importorskip("requests")
    (tmp_path / "rows.csv").write_bytes(content)
    with files_on_the_web(tmp_path) as address:
        done = yardcut("cut", f"{address}/rows.csv", "-l", "keep a > 0", cwd=tmp_path)
    assert done.returncode == 1, done.stdout
    assert done.stderr.startswith(f"yardcut: {address}/rows.csv"), done.stderr


def test_nobody_is_asked_again_for_the_sake_of_a_sentence(monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[str] = []

    def meets(pattern: str) -> tuple[str, ...]:
        asked.append(pattern)
        raise SourceError(f"nothing in the bucket matches {pattern}")

    monkeypatch.setattr("yardcut.core.sources.elsewhere.bucket_patterns.objects_met", meets)
    with pytest.raises(SourceError, match=r"nothing in the bucket matches s3://yard/\*\.csv"):
        open_table(SourceSpec(("s3://yard/*.csv",)))
    assert len(asked) == 1
