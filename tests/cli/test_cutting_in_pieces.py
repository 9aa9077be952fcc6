"""What comes through a pipe is cut while it comes: the same bytes and counts as of a file, or it is waited for."""

from __future__ import annotations

import contextlib
import os
import random
import re
import subprocess
import sys
import threading
from pathlib import Path

import pytest

from commands import Done, yardcut
from thoroughness import examples
from yardcut.core.sources import growing_files
from yardcut.core.sources.formats import delimited
from yardcut.core.unattended import cutting_in_pieces

WOODS = ("oak", "ash", "élan", "larch", "", 'a "b"', "x, y", "two\nlines", "NA", " oak ")
TEXT_LINES = [
    "keep species = 'oak'", "drop species IS NULL", "keep species LIKE '%a%'", "drop note CONTAINS '1'", "keep species IN ('oak', 'ash')",
    "make both = species || note", "columns note, species AS wood", "columns all without note", "off keep boards > 3", "keep UPPER(species) <> 'ASH'",
]  # fmt: skip
WAITING = [
    "keep boards > 5", "order species", "draw random 3 seed 1", "draw last 2", "tally COUNT(*) per species", "keep species = MAX(species)",
    "keep SOURCE_ROW > 3", "columns kind number", "draw first 10 percent", "draw first 1 per species", "keep REPEATED(note)",
]  # fmt: skip


@pytest.fixture(autouse=True)
def _small_blocks(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", 1500)
    monkeypatch.setattr(cutting_in_pieces, "_BLOCK_BYTES", 1500)
    monkeypatch.setattr(delimited, "_BLOCK_BYTES_PER_COLUMN", 1)
    monkeypatch.setattr(delimited, "_LEAST_LAST_BYTES", 400)
    monkeypatch.setattr(growing_files, "_PIECE_BYTES", 700)
    monkeypatch.setattr(growing_files, "_AHEAD_BYTES", 2000)
    monkeypatch.setattr(growing_files, "_MOST_HELD", 2)


def packs(seed: int, rows: int = 700) -> bytes:
    chance = random.Random(seed)
    ends = chance.choice(["\n", "\r\n"])
    delimiter = chance.choice([",", ";", "\t"])

    def cell(text: str) -> str:
        return '"' + text.replace('"', '""') + '"' if re.search(f'[{delimiter}"\n]', text) else text

    lines = [delimiter.join(("no", "species", "boards", "note"))]
    for row in range(rows):
        lines.append(
            delimiter.join(map(cell, (str(row), chance.choice(WOODS), str(chance.randrange(20)), f"n{row % 13}")))
        )
        if chance.random() < 0.01:
            lines.append(chance.choice(["", lines[0], f"1{delimiter}2", delimiter * 3]))
    if chance.random() < 0.4:
        lines.append(f"Total{delimiter}{delimiter}7000{delimiter}")
    text = ends.join(lines) + (ends if chance.random() < 0.7 else "")
    return (b"\xef\xbb\xbf" if chance.random() < 0.3 else b"") + text.encode()


def through_a_pipe(folder: Path, data: bytes, *words: str) -> Done:
    """Run ``cut`` on what is written into a named pipe."""
    pipe = folder / "packs.csv"
    pipe.unlink(missing_ok=True)
    os.mkfifo(pipe)
    writer = threading.Thread(target=pipe.write_bytes, args=(data,))
    writer.start()
    done = yardcut("cut", "packs.csv", *words, cwd=folder)
    writer.join()
    pipe.unlink()
    return done


def as_a_file(folder: Path, data: bytes, *words: str) -> Done:
    (folder / "packs.csv").write_bytes(data)
    done = yardcut("cut", "packs.csv", *words, cwd=folder)
    (folder / "packs.csv").unlink()
    return done


def counts(done: Done) -> list[str]:
    return re.findall(r"^ +\d+  .*?(?:\(off\)|→.*)$", done.stderr, re.M)


def what_is_left_out(done: Done) -> list[str]:
    """Return what is said of rows and cells that are none, each number with its word."""
    found = re.findall(r"dropped (.*)|(\S+: [\d,]+ set aside)|([\d,]+ rows were lost.*)", done.stderr)
    return sorted(part for each in found for words in each for part in words.split(", ") if part)


def test_what_is_written_while_it_comes_is_not_kept(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    kept = list[int]()
    plain = growing_files.GrowingFile.take

    def take(self: growing_files.GrowingFile) -> bytes:
        kept.append(self._path.stat().st_size)
        return plain(self)

    monkeypatch.setattr(growing_files.GrowingFile, "take", take)
    data = packs(3, 16_000)
    expected = as_a_file(tmp_path, data, "-l", "keep species = 'oak'")
    found = through_a_pipe(tmp_path, data, "-l", "keep species = 'oak'")
    assert found.stdout == expected.stdout
    assert kept
    assert set(kept) == {0}


@pytest.mark.few(9)
@pytest.mark.parametrize("seed", range(examples(300)))
def test_the_bytes_and_counts_are_those_of_a_file(tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    lines = chance.sample(TEXT_LINES, chance.randint(1, 3))
    if chance.random() < 0.3:
        lines.insert(chance.randint(0, len(lines)), f"draw first {chance.choice([1, 30, 150, 5000])}")
    if chance.random() < 0.3:
        lines.append(chance.choice(WAITING))
    if chance.random() < 0.3:
        lines = ["kind boards text" if chance.random() < 0.5 else "kind boards integer", *lines, "keep boards <> 12"]
        lines[-1] = "keep boards <> '12'" if "text" in lines[0] else lines[-1]
    words, data = [word for line in lines for word in ("-l", line)], packs(seed)
    came, there = through_a_pipe(tmp_path, data, *words), as_a_file(tmp_path, data, *words)
    assert (came.returncode, came.stdout) == (there.returncode, there.stdout), lines
    stopped = "no more were read" in came.stderr
    assert stopped or counts(came) == counts(there), lines
    assert stopped or what_is_left_out(came) == what_is_left_out(there), (came.stderr, there.stderr)


@pytest.mark.few(5)
@pytest.mark.parametrize("line", TEXT_LINES)
def test_lines_on_single_rows_and_texts_do_not_wait(tmp_path: Path, line: str) -> None:
    done = through_a_pipe(tmp_path, packs(2), "-l", line)
    assert re.search(r"^written while it came, in \d+ pieces?$", done.stderr, re.M), done.stderr


@pytest.mark.few(5)
@pytest.mark.parametrize("line", WAITING)
def test_lines_that_another_row_may_change_wait(tmp_path: Path, line: str) -> None:
    assert "written while" not in through_a_pipe(tmp_path, packs(2), "-l", "keep species = 'oak'", "-l", line).stderr
    assert "written while" not in through_a_pipe(tmp_path, packs(2), "-l", line).stderr


def test_what_may_be_no_text_in_the_end_is_waited_for_and_what_is_none_is_said(tmp_path: Path) -> None:
    days = "".join(f"{row},0{row % 9 + 1}/0{row % 8 + 1}/2031\n" for row in range(400))
    for rows in (days, days + "400,25/03/2031\n", "".join(f"{row},00{row}\n" for row in range(400))):
        data, words = f"no,what\n{rows}".encode(), ("-l", "keep what = '01/01/2031'")
        came = through_a_pipe(tmp_path, data, *words)
        assert "written while" not in came.stderr
        assert came.stdout == as_a_file(tmp_path, data, *words).stdout
    mixed = "no,what\n" + "".join(f"{row},{'oak' if row % 2 else row}\n" for row in range(40))
    turns = mixed + "".join(f"{row},{row}\n" for row in range(40, 22_000))
    done = through_a_pipe(tmp_path, turns.encode(), "-l", "keep what = 'oak'")
    assert done.returncode == 1
    assert "something else as a whole" in done.stderr
    assert "kind what text" in done.stderr
    said = through_a_pipe(tmp_path, turns.encode(), "-l", "kind what text", "-l", "keep what = 'oak'")
    assert (said.returncode, said.stdout.count("oak")) == (0, 20)


def test_a_column_that_no_line_names_is_not_met_in_a_later_piece(tmp_path: Path) -> None:
    rows = "".join(f"{row},{'ash' if row < 300 else 'oak'},n{row},x\n" for row in range(600))
    words = ["-l", "kind #3 text", "-l", "keep species = 'oak'", "-l", "make both = #3 || '!'"]
    data = f"no,species,note,more\n{rows}".encode()
    came = through_a_pipe(tmp_path, data, *words)
    assert (came.returncode, came.stdout) == (0, as_a_file(tmp_path, data, *words).stdout), came.stderr


def test_a_pipe_that_does_not_end_gives_its_first_rows_and_a_reader_that_has_seen_enough_ends_it(
    tmp_path: Path,
) -> None:
    program = "import sys; from yardcut.cli.main import main; sys.argv[0] = 'yardcut'; sys.exit(main())"
    command = [sys.executable, "-c", program, "cut", "-", "-q", "-l", "keep species = 'oak'"]
    rows = b"no,species\n" + b"".join(b"%d,%s\n" % (row, b"oak" if row % 3 else b"ash") for row in range(200_000))
    for more in (["-l", "draw first 5"], []):
        with subprocess.Popen([*command, *more], stdin=subprocess.PIPE, stdout=subprocess.PIPE) as running:
            assert running.stdin is not None
            assert running.stdout is not None
            running.stdin.write(rows)
            running.stdin.flush()
            assert [running.stdout.readline() for _ in range(3)] == [b"no,species\n", b"1,oak\n", b"2,oak\n"]
            running.stdout.close()
            with contextlib.suppress(BrokenPipeError):
                if not more:  # the next rows find nobody who reads them
                    running.stdin.write(rows.partition(b"\n")[2])
                    running.stdin.flush()
                running.wait(60)
                running.stdin.close()
