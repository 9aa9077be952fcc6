"""Lists kept at every edit: whole at any moment, found when nobody works on them, read back as they were."""

from __future__ import annotations

import os
import signal
import stat
import subprocess
import sys
import time
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from thoroughness import IS_LONG
from yardcut.core.cutlist.file import parse_list
from yardcut.core.cutlist.kept_lists import Keeper, KeptList, forget, found_for, found_lists
from yardcut.core.locks import hold, is_abandoned

NAMES = st.text(st.characters(codec="utf-8", exclude_characters="\x00"), min_size=1, max_size=12)


def kept(*lines: str, base: Path = Path("/yard"), path: Path | None = None) -> KeptList:
    text = 'yardcut 1\n\nsource "yard.csv"\n\ncut "slice"\n' + "".join(f"  {line}\n" for line in lines)
    return KeptList(parse_list(text), 0, base, path)


def test_the_last_states_are_kept_and_found_when_their_app_is_gone(tmp_path: Path) -> None:
    keeper = Keeper(tmp_path)
    states = [kept(*["draw first 9"] * count) for count in range(1, 8)]
    for number, state in enumerate(states, 1):
        keeper.keep(number, state)
    keeper.keep(3, states[0])  # an older one, from a thread that was slow
    assert found_lists(tmp_path) == [], "its app lives"
    keeper.end(unsaved=True)
    (found,) = found_lists(tmp_path)
    assert found.states == tuple(reversed(states[3:]))
    assert found.was_left
    assert found_for(["/yard/yard.csv"], None, [found]) == [found]
    assert found_for(["/yard/other.csv"], None, [found]) == []
    assert found_for(["/yard/other.csv"], Path("/yard/winter.cut"), [found]) == []
    forget(found)
    assert found_lists(tmp_path) == []


def test_a_list_is_found_by_its_file_whatever_it_reads(tmp_path: Path) -> None:
    keeper = Keeper(tmp_path)
    keeper.keep(1, kept("draw first 9", path=Path("/yard/winter.cut")))
    keeper.end(unsaved=True)
    (found,) = found_lists(tmp_path)
    assert found_for(["/yard/other.csv"], Path("/yard/winter.cut"), [found]) == [found]
    assert found_for(["/yard/other.csv"], Path("/yard/summer.cut"), [found]) == []
    assert found_for(["/yard/other.csv"], None, [found]) == []


def test_what_is_saved_is_not_kept(tmp_path: Path) -> None:
    keeper = Keeper(tmp_path)
    keeper.keep(1, kept("draw first 9"))
    keeper.end(unsaved=False)
    assert list(tmp_path.iterdir()) == []


def test_only_their_owner_can_read_them(tmp_path: Path) -> None:
    keeper = Keeper(tmp_path / "lists")
    keeper.keep(1, kept("draw first 9"))
    for path in tmp_path.rglob("*"):
        assert stat.S_IMODE(path.stat().st_mode) == (0o700 if path.is_dir() else 0o600), path


def test_beyond_the_newest_they_are_dropped(tmp_path: Path) -> None:
    for count in range(25):
        keeper = Keeper(tmp_path)
        keeper.keep(1, kept(f"draw first {count + 1}"))
        keeper.end(unsaved=True)
    assert len(found_lists(tmp_path)) == 20
    assert len(list(tmp_path.iterdir())) == 20


@given(st.lists(NAMES, max_size=3), NAMES, st.one_of(st.none(), NAMES))
def test_any_state_is_read_back_as_it_was(texts: list[str], base: str, path: str | None) -> None:
    lines = ["keep a = '" + text.replace("'", "''") + "'" for text in texts if "\n" not in text and "\r" not in text]
    state = kept(*lines, base=Path("/") / base.replace("/", "_"), path=None if path is None else Path("/x") / path)
    read = KeptList.of(state.text())
    assert read.lines == lines
    assert (read.cut_list, read.sources) == (state.cut_list, state.sources)
    assert read.path is None or os.path.abspath(str(state.path)) == str(read.path)


def test_what_is_no_kept_list_is_passed_over(tmp_path: Path) -> None:
    for name, content in (
        ("a", b""), ("b", b"\xff\xfe"), ("c", b"-- kept {}\nyardcut 1\n"), ("d", b"-- kept [\n"),
        ("e", b'-- kept {"base": 3, "list": null, "cut": "x"}\nyardcut 1\nsource "a"\n'),
    ):  # fmt: skip
        folder = tmp_path / name
        folder.mkdir()
        (folder / "now.cut").write_bytes(content)
        (folder / "lock").write_bytes(b"")
    (tmp_path / "stray").write_text("x")
    assert found_lists(tmp_path) == []


KEEP_ON = """
import sys, itertools
from pathlib import Path
sys.path.insert(0, {tests!r})
from core.test_kept_lists import kept
from yardcut.core.cutlist.kept_lists import Keeper
keeper = Keeper(Path({root!r}))
for number in itertools.count(1):
    keeper.keep(number, kept(*["draw first 9"] * (number % 200)))
    print(number, flush=True)
"""


def test_a_killed_app_leaves_a_whole_list(tmp_path: Path) -> None:
    script = KEEP_ON.format(tests=str(Path(__file__).parent.parent), root=str(tmp_path))
    for turn in range(4 if IS_LONG else 2):
        process = subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, text=True)
        assert process.stdout is not None
        process.stdout.readline()
        time.sleep(0.02 * turn)
        process.send_signal(signal.SIGKILL)
        last = [int(line) for line in process.stdout]
        process.wait()
        process.stdout.close()
        found = found_lists(tmp_path)[0]
        newest = last[-1] if last else 1
        assert len(found.states[0].lines) in (newest % 200, (newest + 1) % 200)
        forget(found)


def test_a_lock_is_held_as_long_as_its_process_lives(tmp_path: Path) -> None:
    path = tmp_path / "lock"
    assert not is_abandoned(path), "there is none"
    first = hold(path)
    assert first is not None
    assert hold(path) is None
    assert not is_abandoned(path)
    first.let_go()
    first.let_go()
    assert is_abandoned(path)
