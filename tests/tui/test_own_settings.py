"""The user's own theme, keys and marks: everywhere on screen, refused by name where they cannot be, and never in a file."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest

from tui.driving import Driven, drive
from yardcut.core.settings.settings_in_force import read_settings
from yardcut.tui.in_force import InForce, in_force
from yardcut.tui.keys.actions import ACTIONS
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import Keymap, use_keymap
from yardcut.tui.keys.names import key_named, key_text
from yardcut.tui.keys.settings_page import settings_page
from yardcut.tui.number_marks import NumberMarks, use_marks


@pytest.fixture(autouse=True)
def _as_it_was() -> Iterator[None]:
    yield
    use_keymap(Keymap())
    use_marks(NumberMarks())


def own(tmp_path: Path, text: str) -> InForce:
    (tmp_path / "config.toml").write_text(text, encoding="utf-8")
    return in_force(read_settings(tmp_path / "config.toml", {}))


@pytest.mark.parametrize("key", sorted({key for action in ACTIONS for key in action.keys}))
def test_every_key_is_written_as_it_is_shown(key: str) -> None:
    assert key_named(key_text(key)) == key
    assert key_named(key) == key


def test_other_keys_do_it_and_stand_everywhere(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("ticket,boards\n" + "".join(f"{n:03},{n * 1234}\n" for n in range(40)))
    found = own(
        tmp_path,
        '[screen]\ndecimal_mark = ","\nthousands_mark = "."\n[keys]\nundo = ["F11", "ctrl+z"]\nkeep-value = "="\nwrite = "Space"\npage-down = "PgDn"\n',
    )
    assert found.troubles == ()

    async def steps(app: Driven) -> None:
        await app.until(
            "40 rows × 2 columns", "Space write", "= keep", "Space writes a line · = keeps this value", "40.722"
        )
        await app.press("right", "down", "=")
        await app.until("1 row left", "(line 1; F11 takes it back)")
        desk = app.app.screen_stack[0].stage.desk  # type: ignore[attr-defined]
        assert desk.now.cut.lines[0].text == "keep boards = 1234"  # what is matched is the value, whatever is shown
        await app.press("u")  # means nothing any more
        await app.press("ctrl+z")
        await app.until("40 rows", "no lines yet: Space writes one, = keeps")
        await app.press("question_mark")
        await app.until("find what to do")
        await app.type("last edit back")
        await app.until("F11 or ctrl+z")

    drive(path, steps, in_force=found)


def test_a_theme_by_its_name(tmp_path: Path) -> None:
    found = own(tmp_path, '[screen]\ntheme = "yard-light"\n')
    path = tmp_path / "t.csv"
    path.write_text("a,b\n1,2\n")

    async def steps(app: Driven) -> None:
        await app.until("1 row × 2 columns")
        assert app.app.theme == "yard-light"

    drive(path, steps, in_force=found)


@pytest.mark.parametrize(
    ("text", "line", "says"),
    [
        ('[keys]\noff = "e"\n', 2, "off in [keys]: e is the key of edit there"),
        ('[keys]\noff = "w"\n', 2, "off in [keys]: w is the key of write there"),
        ('[keys]\nwrite = "x"\n', 2, "write in [keys]: x is the key of off there"),
        ('[keys]\nhelp = "ctrl+m"\n', 2, "help in [keys]: no terminal sends ctrl+m"),
        ('[keys]\nhelp = "ctrl+i"\n', 2, "help in [keys]: no terminal sends ctrl+i"),
        ('[keys]\nhelp = "super+x"\n', 2, "help in [keys]: no terminal sends super+x"),
        ('[keys]\n\nenter = "x"\n', 3, "enter in [keys]: the field needs x"),
        ('[keys]\nmend = "Backspace"\n', 2, "mend in [keys]: the field needs Backspace"),
        ('[keys]\nundu = "u"\n', 2, "undu in [keys]: there is no such action"),
        ("[keys]\nundo = 5\n", 2, "undo in [keys]: it takes one key or several"),
        ("[keys]\nundo = []\n", 2, "undo in [keys]: it takes one key or several"),
        ('[screen]\ntheme = "dusk"\n', 2, "there is no theme dusk"),
        ('[screen]\ndecimal_mark = ","\nthousands_mark = ","\n', 3, "cannot both have the mark"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_by_name_and_the_rest_stays(tmp_path: Path, text: str, line: int, says: str) -> None:
    found = own(tmp_path, text)
    (trouble,) = found.troubles
    assert trouble.place is not None
    assert trouble.place.line == line
    assert says in trouble.message
    assert found.keymap.actions == ACTIONS
    assert (found.theme, found.marks) == (InForce().theme, NumberMarks())
    assert says in found.said()


def test_two_keys_may_change_places(tmp_path: Path) -> None:
    found = own(tmp_path, '[keys]\noff = "e"\nedit = ["x", "Enter"]\n')
    assert found.troubles == ()
    assert found.keymap.action_for(Focus.LIST, "e") is found.keymap.action("off")


def test_a_trouble_is_told_when_the_app_starts(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("a,b\n1,2\n")

    async def steps(app: Driven) -> None:
        await app.until("1 row × 2 columns", "settings: ", "config.toml, line 2, column 1: there is no theme dusk")

    drive(path, steps, in_force=own(tmp_path, '[screen]\ntheme = "dusk"\n'))


@pytest.mark.parametrize(
    ("marks", "text", "shown"),
    [
        (NumberMarks(",", "."), "1234567.25", "1.234.567,25"),
        (NumberMarks(",", ""), "-0.5", "-0,5"),
        (NumberMarks(".", " "), "-1234", "-1 234"),
        (NumberMarks(".", ","), "999", "999"),
        (NumberMarks(",", "."), "1e+300", "1e+300"),
        (NumberMarks(), "1234567.25", "1234567.25"),
    ],
)
def test_marks_of_numbers(marks: NumberMarks, text: str, shown: str) -> None:
    assert marks.shown(text) == shown


def test_no_sentence_of_the_app_names_a_key_by_itself() -> None:
    """Keys in sentences come from the table: what names one would be wrong for whoever has other keys."""
    root = Path(__file__).parents[2] / "src" / "yardcut" / "tui"
    says = "takes|makes|writes|goes|mends|shows|opens|puts|leaves|tells|keeps|reads|brings|finds|closes|saves|lets|replaces|sees|turns|switches|holds|pins|drops|begins|does"
    named = re.compile(rf"[\"' (;:](?:[a-zA-Z/.?]|F\d+|Enter|Esc|Tab|Space|Del|ctrl\+\w) (?:{says})\b")
    found = []
    for path in root.rglob("*.py"):
        if path.name in ("tasks.py", "settings_page.py", "page.py", "actions.py"):
            continue
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
            if ('"' in line or "'" in line) and named.search(line) and '"""' not in line and "#" not in line:
                found.append(f"{path.name}:{number}: {line.strip()}")
    assert found == []


def test_the_page_of_settings_is_the_one_in_the_docs() -> None:
    docs = Path(__file__).parents[2] / "docs" / "settings.md"
    assert docs.read_text(encoding="utf-8") == settings_page(), (
        "python -m yardcut.tui.keys.settings_page > docs/settings.md"
    )
