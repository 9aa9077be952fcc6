"""The command line as a whole process: output, report, exit codes."""

from __future__ import annotations

import csv
import io
import json
import logging
import os
import subprocess
import sys
from pathlib import Path

import pytest

from commands import assert_sentence, yardcut

LIST = """\
yardcut 1
source "yard_2031.csv"

cut "winter oak"
  drop    bay = 'ALL BAYS'
  keep    species = 'oak' IGNORING CASE AND grade = 'A'
  draw    bottom 5 by moisture_pct
  columns ticket, species AS wood, moisture_pct
  save    "winter-oak.csv"

cut "dear ones"
  drop bay = 'ALL BAYS'
  draw top 2 by price_per_m3 per species with ties
  columns ticket, species, price_per_m3
"""


@pytest.fixture
def place(yard: Path, tmp_path: Path) -> Path:
    """Return a folder with the 2031 file and a list."""
    (tmp_path / "yard_2031.csv").symlink_to(yard / "yard_2031.csv")
    (tmp_path / "oak.cut").write_text(LIST)
    return tmp_path


def source_rows(yard: Path) -> list[dict[str, str]]:
    with open(yard / "yard_2031.csv", encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def test_run_writes_what_the_list_says(place: Path, yard: Path) -> None:
    done = yardcut("run", "oak.cut", cwd=place)
    assert done.returncode == 0, done.stderr
    assert done.stdout == ""
    with open(place / "winter-oak.csv", newline="") as file:
        rows = list(csv.DictReader(file))
    packs = [
        row for row in source_rows(yard)
        if row["species"].strip().lower() == "oak" and row["grade"] == "A" and row["moisture_pct"] not in ("", "NA", "n/a")
    ]  # fmt: skip
    driest = sorted(packs, key=lambda row: float(row["moisture_pct"]))[:5]
    assert [row["ticket"] for row in rows] == [row["ticket"] for row in driest]
    assert list(rows[0]) == ["ticket", "wood", "moisture_pct"]
    assert "1  drop    bay" not in done.stderr
    assert "  1  drop bay = 'ALL BAYS'  7,650 → 7,400" in done.stderr
    assert "wrote winter-oak.csv: 5 rows read back" in done.stderr


def test_a_target_that_exists_needs_a_word(place: Path) -> None:
    (place / "winter-oak.csv").write_text("mine")
    assert_sentence(yardcut("run", "oak.cut", cwd=place), 1, "winter-oak.csv exists")
    assert (place / "winter-oak.csv").read_text() == "mine"
    assert yardcut("run", "oak.cut", "--replace", cwd=place).returncode == 0
    assert (place / "winter-oak.csv").read_text().startswith("ticket,wood")


def test_a_named_cut_without_save_writes_csv_to_standard_output(place: Path) -> None:
    done = yardcut("run", "oak.cut", "--cut", "dear ones", "--report", "r.json", cwd=place)
    assert done.returncode == 0
    rows = list(csv.DictReader(io.StringIO(done.stdout)))
    assert list(rows[0]) == ["ticket", "species", "price_per_m3"]
    report = json.loads((place / "r.json").read_text())
    assert report["cut"] == "dear ones"
    assert report["lines"][1]["rows_out"] == len(rows)
    assert_sentence(yardcut("run", "oak.cut", "--cut", "none", cwd=place), 2, 'no cut "none"', '"dear ones"')


def test_run_reports_what_changed_since_the_last_run(place: Path) -> None:
    (place / "small.csv").write_text("ticket,species,price_per_m3\n1,oak,3\n")
    words = ("run", "oak.cut", "--cut", "dear ones", "--source", "small.csv")
    (place / "oak.cut").write_text(LIST.replace("  drop bay = 'ALL BAYS'\n  draw top", "  draw top"))
    assert yardcut(*words, "--strict", cwd=place).returncode == 0
    (place / "small.csv").write_text("ticket,species,price_per_m3,extra\n1,oak,3.5,x\n")
    done = yardcut(*words, cwd=place)
    assert done.returncode == 0
    assert "since the last run the column extra is new" in done.stderr
    assert "since the last run the column price_per_m3 was integer and is number now" in done.stderr
    (place / "small.csv").write_text("ticket,species,price_per_m3\n1,oak,3.5\n")
    assert_sentence(yardcut(*words, "--strict", cwd=place), 3, "the column extra is gone")


def test_cut_makes_a_slice_from_lines(place: Path, yard: Path) -> None:
    done = yardcut("cut", "yard_2031.csv", "-l", "drop bay = 'ALL BAYS'", "-l", "draw random 7 seed 3",
                   "--out", "slice.parquet", cwd=place)  # fmt: skip
    assert done.returncode == 0
    assert "wrote slice.parquet: 7 rows read back" in done.stderr
    given = "drop bay = 'ALL BAYS'\nkeep grade = 'A'\n  AND length_mm > 4000\ncolumns ticket\n"
    done = yardcut("cut", "yard_2031.csv", "-l", "-", cwd=place, given=given)
    rows = [row["ticket"] for row in source_rows(yard)
            if row["grade"] == "A" and row["length_mm"].isdigit() and int(row["length_mm"]) > 4000]  # fmt: skip
    assert done.stdout.split() == ["ticket", *rows]


def test_the_same_seed_gives_the_same_slice(place: Path) -> None:
    words = ("cut", "yard_2031.csv", "-l", "draw random 50 per species seed 11")
    assert yardcut(*words, cwd=place).stdout == yardcut(*words, cwd=place).stdout


def test_check_runs_nothing(place: Path) -> None:
    done = yardcut("check", "oak.cut", cwd=place)
    assert (done.returncode, done.stdout) == (0, 'cut "winter oak" writes winter-oak.csv\noak.cut: 8 lines are right\n')
    assert not (place / "winter-oak.csv").exists()
    (place / "oak.cut").write_text(LIST.replace("bottom 5 by moisture_pct", "bottom 5 by moisture_pc"))
    assert_sentence(yardcut("check", "oak.cut", cwd=place), 2, "oak.cut, line 7, column 23: there is no column moisture_pc",
                    "did you mean moisture_pct")  # fmt: skip


def test_gauge_tells_about_each_column(place: Path) -> None:
    done = yardcut("gauge", "yard_2031.csv", "--json", cwd=place)
    found = {column["name"]: column for column in json.loads(done.stdout)}
    assert (found["weight_kg"]["kind"], found["weight_kg"]["set_aside_texts"]) == ("number", [["heavy", 1]])
    assert found["moisture_d07"]["set_aside_texts"] == [["--", 3]]
    assert found["ticket"]["distinct"] == 7400
    assert "moisture_pct" in yardcut("gauge", "yard_2031.csv", cwd=place).stdout


@pytest.mark.parametrize(
    ("words", "code", "says"),
    [
        (["cut", "none.csv"], 1, "there is no file none.csv"),
        (["cut", "."], 1, "is a directory"),
        (["cut", "empty.csv"], 1, "empty.csv is empty"),
        (["cut", sys.executable], 1, "looks like a program"),
        (["none.csv"], 1, "there is no file none.csv"),
        (["empty.csv"], 1, "empty.csv is empty"),
        (["cut", "yard_2031.csv", "-l", "kep a = 1"], 2, "did you mean keep?"),
        (["cut", "yard_2031.csv", "-l", "keep specis = 'oak'"], 2, "did you mean species"),
        (["cut", "yard_2031.csv", "-l", "keep species = oak"], 2, "the shell may have eaten the quotes"),
        (["cut", "yard_2031.csv", "-l", "keep species = NULL"], 2, "IS NULL asks"),
        (["cut", "yard_2031.csv", "-l", "keep felled_on = DATE '2031-02-30'"], 2, "no day or time"),
        (["cut", "yard_2031.csv", "-l", "keep species > 3"], 2, "they cannot be compared"),
        (["cut", "yard_2031.csv", "-l", "bring a from 'b.csv'"], 2, "the line is not whole; by could stand here"),
        (["cut", "yard_2031.csv", "--out", "x.doc"], 1, "does not say in which format"),
        (["cut", "yard_2031.csv", "--out", "none/x.csv"], 1, "there is no directory none"),
        (["cut", "yard_2031.csv", "--out", "yard_2031.csv", "--replace"], 1, "a source is never written to"),
        (["cut", "yard_2031.csv", "--set", "best=3"], 2, "no dial best"),
        (["cut", "yard_20[.csv"], 1, "no file matches"),
        (["run", "none.cut"], 1, "there is no list none.cut"),
        (["run", "oak.cut", "--bogus"], 2, "No such option"),
        (["check", "empty.csv"], 2, "a list starts with the line"),
    ],
)  # fmt: skip
def test_bad_input_gets_a_sentence_and_a_code(place: Path, words: list[str], code: int, says: str) -> None:
    (place / "empty.csv").touch()
    done = yardcut(*words, cwd=place)
    assert_sentence(done, code, says)
    assert done.stdout == ""


@pytest.mark.skipif(os.geteuid() == 0, reason="root may read and write everything")
def test_files_without_permission_say_so(place: Path) -> None:
    (place / "secret.csv").write_text("a\n1\n")
    (place / "secret.csv").chmod(0)
    assert_sentence(yardcut("cut", "secret.csv", cwd=place), 1, "may not be read by you")
    place.chmod(0o555)
    assert_sentence(yardcut("cut", "yard_2031.csv", "--out", "x.csv", cwd=place), 1, "may not be written to")
    place.chmod(0o755)


def test_a_cache_that_cannot_be_written_says_so(place: Path) -> None:
    (place / "no-cache").write_text("a file, not a directory")
    done = yardcut("cut", "yard_2031.csv", "-l", "draw first 1", cwd=place, XDG_CACHE_HOME=str(place / "no-cache"))
    assert_sentence(done, 1, "cache directory", "name a directory that")


def test_a_reader_that_has_seen_enough_ends_it_quietly(place: Path) -> None:
    command = f"{sys.executable} -m yardcut cut yard_2031.csv 2>errors | head -1"
    done = subprocess.run(["bash", "-c", command], cwd=place, capture_output=True, text=True, check=True)
    assert done.stdout.startswith("ticket,")
    said = (place / "errors").read_text().splitlines()
    assert all(line.startswith("! ") for line in said)  # what the source lost is said; nothing of the pipe


def test_a_refused_line_is_shown_with_the_place_under_it(place: Path) -> None:
    done = yardcut("cut", "yard_2031.csv", "-l", "keep boards > 3 AND specis = 'oak'", cwd=place)
    assert done.returncode == 2
    said = done.stderr.splitlines()
    at = said.index("  keep boards > 3 AND specis = 'oak'")
    assert said[at + 1] == "  " + " " * 20 + "^" * len("specis")
    assert "did you mean species" in said[at - 1]


def test_version_and_help(tmp_path: Path) -> None:
    assert yardcut("--version", cwd=tmp_path).stdout.startswith("yardcut 0.")
    assert "yardcut SOURCE" in yardcut("--help", cwd=tmp_path).stdout


def test_what_is_kept_is_its_owners_alone(place: Path) -> None:
    own = place / "own"
    environment = {f"XDG_{name}_HOME": str(own / name) for name in ("CACHE", "STATE")}
    packed = yardcut("cut", "yard_2031.csv", "-l", "draw first 900", "--out", "packs.parquet", cwd=place, **environment)
    assert packed.returncode == 0, packed.stderr
    done = yardcut("run", "oak.cut", "--report", "report.json", "--cut", "winter oak", cwd=place, **environment)
    assert done.returncode == 0, done.stderr
    assert yardcut("gauge", "packs.parquet", cwd=place, **environment).returncode == 0
    kept = [path for path in own.rglob("*") if path not in (own / "CACHE", own / "STATE")]
    assert len(kept) > 100
    assert [path for path in (*kept, place / "report.json") if path.stat().st_mode & 0o077] == []


COMMANDS = [
    ("cut", "yard_2031.csv", "-l", "draw first 3"),
    ("cut", "yard_2031.csv", "-l", "columns ticket"),
    ("gauge", "yard_2031.csv"),
    ("check", "oak.cut"),
    ("run", "oak.cut", "--cut", "dear ones"),
    ("--help",),
    ("--version",),
    ("cut", "--help"),
]


@pytest.mark.few(1)
@pytest.mark.parametrize("words", COMMANDS, ids=" ".join)
def test_a_full_disk_behind_standard_output_is_a_sentence(place: Path, words: tuple[str, ...]) -> None:
    with open("/dev/full", "w") as full:
        done = subprocess.run(
            [sys.executable, "-m", "yardcut", *words], cwd=place, stdout=full, stderr=subprocess.PIPE, text=True,
            check=False,
        )  # fmt: skip
    assert done.returncode == 1
    assert done.stderr.splitlines()[-1] == "yardcut: standard output cannot be written: No space left on device"
    assert "Traceback" not in done.stderr


@pytest.mark.long
def test_a_full_disk_behind_standard_error_or_the_state_directory_stops_nothing(place: Path, tmp_path: Path) -> None:
    words = [sys.executable, "-m", "yardcut", "run", "oak.cut", "--cut", "dear ones"]
    plain = subprocess.run(words, cwd=place, capture_output=True, text=True, check=True)
    with open("/dev/full", "w") as full:
        done = subprocess.run(words, cwd=place, stdout=subprocess.PIPE, stderr=full, text=True, check=True)
    assert done.stdout == plain.stdout

    (tmp_path / "state" / "yardcut").mkdir(parents=True)
    (tmp_path / "state" / "yardcut" / "yardcut.log").symlink_to("/dev/full")
    (tmp_path / "state" / "yardcut" / "reports").write_text("in the way")
    done = yardcut("run", "oak.cut", "--cut", "winter oak", cwd=place, XDG_STATE_HOME=str(tmp_path / "state"))
    assert (done.returncode, (place / "winter-oak.csv").exists()) == (0, True), done.stderr
    assert "the next run has nothing to be compared with: the report" in done.stderr
    assert "Traceback" not in done.stderr
    assert "Logging error" not in done.stderr


def test_no_name_or_message_brings_control_characters_to_the_terminal(place: Path) -> None:
    (place / "odd.cut").write_text(LIST.replace("yard_2031.csv", "a\x1b]0;x\x07b\x9b31m\x1b[2J.csv"))
    (place / "odd\x1b[2J.cut").write_text('yardcut 1\nsource "yard_2031.csv"\ncut "a\x1b[2J"\n  keep \'\x1b[2J\' = 1\n')
    for words in (
        ("check", "odd.cut"), ("run", "odd.cut"), ("check", "odd\x1b[2J.cut"), ("run", "odd\x1b[2J.cut"),
        ("cut", "\x1b[2J.csv", "-l", "draw first 1"), ("cut", "yard_2031.csv", "-l", "keep \x1b[2J = 1"),
        ("gauge", "\x9b2J"), ("open", "\x1b[2J"), ("cut", "--\x1b[2J"),
        ("cut", "yard_2031.csv", "-l", "draw first 1", "--out", "\x1b[2J.csv"),
        ("cut", "yard_2031.csv", "-l", "draw first 1", "--out", "none/\x1b[2J.csv"),
    ):  # fmt: skip
        done = yardcut(*words, cwd=place)
        assert [char for char in done.stderr + done.stdout if not char.isprintable() and char != "\n"] == [], words
        assert "Traceback" not in done.stderr


def test_a_list_replaces_nothing_outside_its_own_directory_unasked(place: Path, tmp_path: Path) -> None:
    ours, others = place / "ours", tmp_path / "others"
    ours.mkdir()
    others.mkdir()
    for name in ("far.csv", "linked.csv"):
        (others / name).write_text("precious\n")
    (ours / "near.csv").write_text("old\n")
    (ours / "link.csv").symlink_to(others / "linked.csv")
    for name, real, is_outside in (
        ("near.csv", ours / "near.csv", False),
        ("../others/far.csv", others / "far.csv", True),
        (str(others / "far.csv"), others / "far.csv", True),
        ("link.csv", others / "linked.csv", True),
    ):
        (ours / "a.cut").write_text(
            f'yardcut 1\nsource "../yard_2031.csv"\ncut "few"\n  draw first 3\n  columns ticket\n  save "{name}" replace\n'
        )
        before = real.read_text()
        check = yardcut("check", "ours/a.cut", cwd=place)
        assert ("outside the list's directory" in check.stdout) == is_outside
        assert 'cut "few" writes ours/' in check.stdout or f'cut "few" writes {name}' in check.stdout, check.stdout
        assert real.read_text() == before
        if is_outside:
            refused = yardcut("run", "ours/a.cut", cwd=place)
            assert_sentence(refused, 1, "outside its own directory; allow that with --replace")
            assert real.read_text() == "precious\n"
        done = yardcut("run", "ours/a.cut", *(["--replace"] if is_outside else []), cwd=place)
        assert done.returncode == 0, done.stderr
        assert ("! writes" in done.stderr) == is_outside
        assert real.read_text().startswith("ticket\n0")
        real.write_text("precious\n")
    assert (ours / "link.csv").is_symlink()


def test_what_nobody_foresaw_is_a_sentence_without_cells(
    place: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str], caplog: pytest.LogCaptureFixture
) -> None:
    import yardcut.cli.logs
    import yardcut.core.session
    from yardcut.cli import main

    def fails(*given: object, **named: object) -> None:
        raise KeyError("secret-cell")

    monkeypatch.setattr(yardcut.core.session, "load_list", fails)
    monkeypatch.setattr(yardcut.cli.logs, "log_to_file", lambda: None)
    monkeypatch.setattr(sys, "argv", ["yardcut", "check", str(place / "oak.cut")])
    logging.getLogger("yardcut").propagate = True
    with pytest.raises(SystemExit) as end:
        main._run()
    assert end.value.code == 70
    said = capsys.readouterr().err
    assert said.startswith("yardcut: a fault of Yard Cut: KeyError at ")
    assert "KeyError" in caplog.text
    assert "secret-cell" not in said + caplog.text
