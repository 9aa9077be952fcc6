"""The settings: what is right counts, what is wrong is told with its place, and no row depends on any."""

from __future__ import annotations

import tomllib
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.settings.entries import ENTRIES, read_bytes, shown_bytes
from yardcut.core.settings.example import example_file
from yardcut.core.settings.settings_in_force import Settings, read_settings


def read(path: Path, text: str, **environment: str) -> Settings:
    path.write_text(text, encoding="utf-8")
    return read_settings(path, environment)


def test_without_a_file_the_defaults_count(tmp_path: Path) -> None:
    found = read_settings(tmp_path / "none.toml", {})
    assert found.troubles == ()
    assert {setting.whence for setting in found.found.values()} == {"the default"}


def test_the_environment_stands_before_the_file_and_the_file_before_the_default(tmp_path: Path) -> None:
    path = tmp_path / "config.toml"
    found = read(path, '[cache]\nbytes = "1 GB"\n[sort]\nbytes = 500\n', YARDCUT_SORT_BYTES="2 MiB")
    assert (found.value("cache.bytes"), found.found["cache.bytes"].whence) == (10**9, str(path))
    assert (found.value("sort.bytes"), found.found["sort.bytes"].whence) == (2 << 20, "YARDCUT_SORT_BYTES")


@pytest.mark.parametrize(
    ("text", "line", "says", "mend"),
    [
        ('[screen]\ntheme = 5\n', 2, "theme in [screen]: it takes a name", "theme ="),
        ('[screen]\n\n  decimal_mark = ";"\n', 3, "one of '.', ','", "decimal_mark ="),
        ('[cache]\nbytes = "lots"\n', 2, "an amount", "50 GiB"),
        ('[cache]\nbytes = true\n', 2, "an amount", "50 GiB"),
        ('[cache]\nfolder = "here"\n', 2, "the whole path", "/scratch"),
        ("[work]\nthreads = 0\n", 2, "1 or more", "threads = 2"),
        ("[work]\nthreds = 2\n", 2, "no setting threds", "threads"),
        ("# a\n[wrok]\nthreads = 2\n", 2, "no section [wrok]", "[work]"),
        ("threads = 2\n", 1, "no section [threads]", "["),
        ("[work\n", 1, "not TOML", "yardcut settings"),
        ("work.threads = 'x'\n", 1, "1 or more", "threads = 2"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_told_with_its_place_and_a_mend(
    tmp_path: Path, text: str, line: int, says: str, mend: str
) -> None:
    found = read(tmp_path / "config.toml", text)
    (trouble,) = found.troubles
    assert trouble.place is not None
    assert (trouble.place.line, trouble.place.path) == (line, str(tmp_path / "config.toml"))
    assert says in trouble.message
    assert trouble.mend is not None
    assert mend in trouble.mend.says
    assert {setting.whence for setting in found.found.values()} == {"the default"}


@given(st.text(max_size=60))
def test_no_file_whatever_stops_anything(tmp_path_factory: pytest.TempPathFactory, text: str) -> None:
    path = tmp_path_factory.mktemp("settings") / "config.toml"
    path.write_bytes(text.encode("utf-8", "surrogatepass"))
    assert set(read_settings(path, {}).found) == {entry.id for entry in ENTRIES}


def test_a_directory_in_its_place_is_told(tmp_path: Path) -> None:
    assert "cannot be read" in read_settings(tmp_path, {}).troubles[0].message


@given(st.integers(0, 1 << 45))
def test_amounts_read_back(amount: int) -> None:
    assert read_bytes(shown_bytes(amount)) == amount
    assert read_bytes(amount) == amount


def test_the_example_is_a_file_that_counts_for_nothing_and_its_entries_are_right(tmp_path: Path) -> None:
    assert set(tomllib.loads(example_file())) == {*(entry.section for entry in ENTRIES), "keys"}
    whole = "\n".join(line.removeprefix("# ") if " = " in line and not line.startswith("# an") else line
                      for line in example_file().splitlines())  # fmt: skip
    found = read(tmp_path / "config.toml", whole)
    assert found.troubles == ()
    assert {setting.whence for setting in found.found.values()} == {str(tmp_path / "config.toml")}
