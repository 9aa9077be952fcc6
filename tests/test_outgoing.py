"""Every file that a command or a key writes goes through one door, and no hazard comes through it."""

from __future__ import annotations

import ast
import os
import sqlite3
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest

from commands import assert_sentence, yardcut
from yardcut.core.errors import TargetError, TargetExistsError, TargetProtectedError
from yardcut.core.outgoing import Outgoing, Protected, check_apart
from yardcut.core.pictures.bar_data import Bars, Series
from yardcut.core.pictures.drawing_files import write_picture
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.session import Session
from yardcut.core.unattended.list_beside import check_beside, write_beside
from yardcut.core.writers.differences import write_differences
from yardcut.core.writers.left_out import write_left_out
from yardcut.core.writers.targets import Target, write_target
from yardcut.core.writers.value_counts import write_value_counts

ROOT = Path(__file__).parents[1] / "src" / "yardcut"
WRITING = {"placed", "write_bytes", "write_text", "write_private", "savefig", "opened", "fdopen"}
BY_THE_DOOR = {
    "core/outgoing.py", "core/writers/saving_slices.py", "core/writers/writing_apart.py",
    "core/writers/together.py", "core/writers/left_out.py",
    "core/writers/value_counts.py", "core/writers/differences.py", "core/pictures/drawing_files.py", "core/cutlist/file.py",
}  # fmt: skip
INTO_THE_DOOR = {  # they write to the name beside the target that the door gave them
    "core/writers/formats/delimited.py", "core/writers/formats/compressing.py", "core/writers/formats/workbook.py", "core/writers/formats/fifo.py",
}  # fmt: skip
OUR_OWN = {  # caches, state, temporary files: never a name that a user gave
    "core/placing.py", "core/private.py", "core/language/syntax/grammars.py", "core/unattended/reports.py", "core/cutlist/kept_lists.py",
    "core/sources/store/store_parts.py", "core/sources/delimited_blocks/dropped.py", "core/sources/on_demand.py", "core/sources/piped.py",
    "core/sources/elsewhere/addresses.py", "core/sources/elsewhere/copying_out.py", "core/sources/elsewhere/postgresql.py", "core/sources/elsewhere/fetching.py",
    "core/sources/elsewhere/coming_files.py", "core/sources/elsewhere/ranged_files.py", "core/sources/growing_files.py", "core/matching/kept_index.py",
    "core/scanning/shared_folders.py", "core/ranking/ordering/sorting_apart.py",
    "core/sources/delimited_blocks/block_index.py", "core/table/array_file.py", "core/table/stored_table.py", "core/ranking/ordering/key_ranges_kept.py",
    "tui/editor.py", "cli/logs.py", "core/locks.py", "core/sources/kinds/set_aside.py",
}  # fmt: skip
CHECKED_BEFORE = {"demo/files.py"}
OF_THE_CHECKOUT = {"cli/manual.py", "demo/pack_ready.py"}


def writes(path: Path) -> bool:
    """Tell whether a module opens files to be written, or calls what does."""
    text = path.read_text(encoding="utf-8")
    if not any(word in text for word in (*WRITING, "open(")):
        return False
    for node in ast.walk(ast.parse(text)):
        if not isinstance(node, ast.Call):
            continue
        name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
        modes = [each.value for each in (*node.args[1:2], *(key.value for key in node.keywords if key.arg == "mode"))
                 if isinstance(each, ast.Constant)]  # fmt: skip
        if name == "placed" and isinstance(node.func, ast.Attribute):
            continue  # an error with its place
        if name in WRITING or (name == "open" and any(set("wax") & set(str(mode)) for mode in modes)):
            return True
    return False


def test_nothing_else_writes_files() -> None:
    found = {path.relative_to(ROOT).as_posix() for path in ROOT.rglob("*.py") if writes(path)}
    known = BY_THE_DOOR | INTO_THE_DOOR | OUR_OWN | CHECKED_BEFORE | OF_THE_CHECKOUT
    assert found - known == set(), "a file is written that no test here goes round"
    assert (BY_THE_DOOR | CHECKED_BEFORE) - found <= {"core/cutlist/file.py"}, "it calls the door by another word"


@pytest.fixture
def place(tmp_path: Path) -> Path:
    (tmp_path / "a.csv").write_text("id,g,x\n1,a,5\n2,b,\nx\n3,a,7\n")
    (tmp_path / "l.cut").write_text('yardcut 1\nsource "a.csv"\ncut "c"\n  keep x > 1\n')
    return tmp_path


BARS = Bars("t", "rows", ("a",), (Series("s", (1.0,), ("1",)),), "")


def session_of(place: Path) -> Session:
    session = Session.from_list(place / "l.cut")
    session.open()
    return session


def save(session: Session, out: Outgoing, **how: object) -> None:
    frame = list(session.results(CancelToken()))[-1].frame
    target = Target(out.path, out.replace, **how)  # type: ignore[arg-type]
    write_target(frame, target, session.spec, session.protected, CancelToken(), Progress())


def save_with_list(session: Session, out: Outgoing) -> None:
    slice_out = out.at(out.path.with_suffix(".csv") if out.path.suffix == ".cut" else out.path)
    check_beside(slice_out, session.list_path)
    write_beside(slice_out, "yardcut 1\n")


WRITERS: dict[str, tuple[str, Callable[[Session, Outgoing], object]]] = {
    "slice": ("s.csv", save),
    "picture": ("p.svg", lambda session, out: write_picture(BARS, out)),
    "values": ("v.csv", lambda session, out: write_value_counts("g", [("a", 2)], out)),
    "differences": ("d.csv", lambda session, out: write_differences(["what", "g"], [["changed", "a"]], out)),
    "left out": ("o.csv", lambda session, out: write_left_out(session.table, out)),  # type: ignore[arg-type]
    "list": ("n.cut", lambda session, out: session.save_list(out.path, replace=out.replace)),
    "list beside": ("b.cut", save_with_list),
}


@pytest.mark.parametrize("link", ["itself", "symbolic", "hard"])
@pytest.mark.parametrize("what", WRITERS)
def test_no_writer_touches_a_source_even_by_a_link(place: Path, what: str, link: str) -> None:
    name, write = WRITERS[what]
    session = session_of(place)
    source = place / f"source{Path(name).suffix}"
    (place / "a.csv").rename(source)
    (place / "l.cut").write_text(f'yardcut 1\nsource "{source.name}"\ncut "c"\n  keep x > 1\n')
    session = session_of(place)
    before, path = source.read_bytes(), source
    if link != "itself":
        path = place / name
        (path.symlink_to if link == "symbolic" else path.hardlink_to)(source)
    for replace in (False, True):
        with pytest.raises(TargetProtectedError, match="source"):
            write(session, Outgoing(path, session.protected, replace))
    assert source.read_bytes() == before


@pytest.mark.parametrize("what", WRITERS)
def test_no_writer_goes_over_what_exists_without_agreement(place: Path, what: str) -> None:
    name, write = WRITERS[what]
    session = session_of(place)
    (place / name).write_bytes(b"before")
    with pytest.raises(TargetExistsError):
        write(session, Outgoing(place / name, session.protected))
    assert (place / name).read_bytes() == b"before"
    write(session, Outgoing(place / name, session.protected, replace=True))
    assert (place / name).read_bytes() != b"before"


@pytest.mark.parametrize("what", sorted(set(WRITERS) - {"list", "list beside", "picture"}))
def test_no_writer_goes_over_the_list_at_work(place: Path, what: str) -> None:
    session = session_of(place)
    linked = place / WRITERS[what][0]
    linked.symlink_to(place / "l.cut")
    with pytest.raises(TargetProtectedError, match="list"):
        WRITERS[what][1](session, Outgoing(linked, session.protected, replace=True))


@pytest.mark.parametrize("what", WRITERS)
@pytest.mark.parametrize("hazard", ["directory", "nowhere", "device"])
def test_what_is_no_file_is_a_sentence(place: Path, what: str, hazard: str) -> None:
    name, write = WRITERS[what]
    session = session_of(place)
    path = {"directory": place / name, "nowhere": place / "not" / name, "device": place / name}[hazard]
    if hazard == "directory":
        path.mkdir()
    if hazard == "device":
        path.symlink_to("/dev/null")
    with pytest.raises(TargetError):
        write(session, Outgoing(path, session.protected, replace=True))


def test_the_files_beside_a_database_are_the_database(tmp_path: Path) -> None:
    protected = Protected.of([tmp_path / "y.sqlite"])
    for ending in ("", "-wal", "-shm", "-journal"):
        with pytest.raises(TargetProtectedError):
            Outgoing(tmp_path / f"y.sqlite{ending}", protected).check()


def test_links_that_lead_in_a_circle_are_a_sentence(tmp_path: Path) -> None:
    (tmp_path / "a").symlink_to(tmp_path / "b")
    (tmp_path / "b").symlink_to(tmp_path / "a")
    with pytest.raises(TargetError), Outgoing(tmp_path / "a").opened():
        pass


def test_two_outputs_are_never_one_file(tmp_path: Path) -> None:
    (tmp_path / "link").symlink_to(tmp_path / "a.csv")
    with pytest.raises(TargetError, match="the slice and the report"):
        check_apart([(tmp_path / "a.csv", "the slice"), (tmp_path / "link", "the report")])


@pytest.mark.parametrize("report", ["a.csv", "l.cut", "link", "s.csv", "there.json", "s.cut", "."])
@pytest.mark.parametrize("replace", [(), ("--replace",)])
def test_a_report_goes_over_nothing(place: Path, report: str, replace: tuple[str, ...]) -> None:
    (place / "l.cut").write_text('yardcut 1\nsource "a.csv"\ncut "c"\n  keep x > 1\n  save "s.csv" with list\n')
    (place / "link").symlink_to(place / "a.csv")
    (place / "there.json").write_text("before")
    before = {path.name: path.read_bytes() for path in place.iterdir()}
    done = yardcut("run", "l.cut", "--report", report, *replace, cwd=place)
    if report == "there.json" and replace:
        assert done.returncode == 0
        assert (place / report).read_text().startswith("{")
    else:
        assert_sentence(done, 1, report)
        assert {path.name: path.read_bytes() for path in place.iterdir()} == before, "nothing ran"


def test_a_report_is_for_its_owner_alone(place: Path) -> None:
    assert yardcut("run", "l.cut", "--out", "s.csv", "--report", "r.json", cwd=place).returncode == 0
    assert (place / "r.json").stat().st_mode & 0o777 == 0o600


def test_one_run_for_each_value_writes_no_file_twice(place: Path) -> None:
    (place / "l.cut").write_text(
        'yardcut 1\nsource "a.csv"\ndial g = \'a\', \'b\'\ncut "c"\n  keep g IN (:g)\n  save "s.csv" replace\n'
    )
    done = yardcut("run", "l.cut", "--each", "g", "--report", "s-a.csv", cwd=place)
    assert done.returncode == 0, done.stderr
    assert sorted(path.name for path in place.glob("s-*")) == ["s-a-a.csv", "s-a-b.csv", "s-a.csv", "s-b.csv"]
    for path in place.glob("s-*"):
        path.unlink()
    done = yardcut("run", "l.cut", "--each", "g", "--out", "s-{g}.csv", "--report", "s-{g}.csv", "--replace", cwd=place)
    assert_sentence(done, 1, "the slice and the report")


def test_parts_of_a_slice_keep_clear_of_the_rest_of_the_run(place: Path) -> None:
    (place / "a.csv").write_text("id,g,x\n1,a,5\n2,b,9\n")
    text = 'yardcut 1\nsource "a.csv"\ncut "c"\n  keep x > 1\n  save "{g}%s.csv" one file per g replace\n'
    (place / "l.cut").write_text(text % "-p")
    assert_sentence(yardcut("run", "l.cut", "--report", "b-p.csv", "--replace", cwd=place), 1, "b-p.csv", "report")
    assert list(place.glob("*-p.csv")) == []
    (place / "l.cut").write_text(text % "")
    assert_sentence(yardcut("run", "l.cut", cwd=place), 1, "a.csv is the source")


def test_a_list_is_a_slice_of_no_run(place: Path) -> None:
    done = yardcut("run", "l.cut", "--out", "l.cut", "--replace", cwd=place)
    assert_sentence(done, 1)
    assert (place / "l.cut").read_text().startswith("yardcut 1")
    with closing(sqlite3.connect(place / "y.sqlite")) as database:
        database.execute("create table t (x integer)")
    assert_sentence(yardcut("cut", "y.sqlite", "--out", "y.sqlite", "--replace", cwd=place), 1, "never written to")


def test_the_demo_yard_goes_over_nothing(place: Path) -> None:
    (place / "mills.csv").write_text("mine")
    assert_sentence(yardcut("demo", "--write", ".", cwd=place), 1, "mills.csv exists")
    assert (place / "mills.csv").read_text() == "mine"
    assert not (place / "yard_2031.csv").exists()
    assert yardcut("demo", "--write", ".", "--replace", cwd=place).returncode == 0
    assert os.path.getsize(place / "mills.csv") > 100
