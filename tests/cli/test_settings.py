"""Settings on the command line: what is in force is printed, what does not count is told, and no row depends on any."""

from __future__ import annotations

from pathlib import Path

import pytest

from commands import yardcut


@pytest.fixture
def place(tmp_path: Path) -> Path:
    (tmp_path / "a.csv").write_text("n,x\n" + "".join(f"{n},{n}.50\n" for n in range(30)))
    (tmp_path / "yardcut").mkdir()
    return tmp_path


def write(place: Path, text: str) -> None:
    (place / "yardcut" / "config.toml").write_text(text)


def test_what_is_in_force_and_whence(place: Path) -> None:
    write(place, '[sort]\nbytes = "2 GB"\n[keys]\nundo = ["F11"]\n')
    done = yardcut("settings", cwd=place, XDG_CONFIG_HOME=str(place), YARDCUT_CACHE_BYTES="3 GiB")
    rows = {line.split()[0]: line.split("  ")[1:] for line in done.stdout.splitlines()[1:]}
    assert done.returncode == 0
    assert "2 GB" in " ".join(rows["sort.bytes"])
    assert "YARDCUT_CACHE_BYTES" in " ".join(rows["cache.bytes"])
    assert "F11" in " ".join(rows["keys.undo"])


def test_a_wrong_entry_is_told_and_the_slice_is_the_same(place: Path) -> None:
    plain = yardcut("cut", "a.csv", "-l", "keep n > 3", cwd=place)
    write(place, '[screen]\ndecimal_mark = ","\nthousands_mark = "."\n[cache]\nbytes = "lots"\n')
    done = yardcut("cut", "a.csv", "-l", "keep n > 3", cwd=place, XDG_CONFIG_HOME=str(place))
    assert (done.returncode, done.stdout) == (0, plain.stdout)
    assert "config.toml, line 5, column 1: bytes in [cache]" in done.stderr
    assert yardcut("settings", cwd=place, XDG_CONFIG_HOME=str(place)).returncode == 2
