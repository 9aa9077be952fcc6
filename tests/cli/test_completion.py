"""What shells complete, asked as a shell asks; installed by one command; what a report of a fault needs."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from commands import assert_sentence, yardcut


@pytest.fixture
def yard(tmp_path: Path) -> Path:
    (tmp_path / "a.csv").write_text("id,species,price_per_m3\n1,oak,5\n2,ash,7\n")
    return tmp_path


def offered(yard: Path, *words: str) -> list[str]:
    asked = {
        "COMP_WORDS": " ".join(["yardcut", *words]),
        "COMP_CWORD": str(len(words)),
        "_YARDCUT_COMPLETE": "bash_complete",
    }
    program = Path(sys.executable).parent / "yardcut"
    done = subprocess.run([program], cwd=yard, env={**os.environ, **asked}, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    return [line.partition(",")[2] for line in done.stdout.splitlines()]


@pytest.mark.few(1)
@pytest.mark.parametrize(
    ("line", "wanted"),
    [('"keep spe', "keep species"), ('"order pri', "order price_per_m3"), ('"', "keep "), ('"keep species = 1 AND pri', "keep species = 1 AND price_per_m3"),
     ('"draw ran', "draw random "), ("'columns id, spe", "columns id, species")],
)  # fmt: skip
def test_lines_are_completed_with_the_columns_of_the_source(yard: Path, line: str, wanted: str) -> None:
    found = offered(yard, "cut", "a.csv", "-l", line)
    assert any(each.startswith(wanted) for each in found)
    assert all(each.lower().startswith(line[1:].lower()) for each in found), "a shell would take away what is typed"


@pytest.mark.long
def test_without_a_source_nothing_is_made_up(yard: Path) -> None:
    assert offered(yard, "cut", "gone.csv", "-l", "'keep spe") == [""]
    assert "cut" in offered(yard, "cu")


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_one_command_installs_it(yard: Path, shell: str) -> None:
    home = {"HOME": str(yard), "XDG_DATA_HOME": str(yard / "data"), "XDG_CONFIG_HOME": str(yard / "config")}
    done = yardcut("completion", shell, cwd=yard, **home)
    assert done.returncode == 0, done.stderr
    path = Path(done.stdout.split("wrote ")[1].split(";")[0])
    assert path.is_relative_to(yard)
    assert path.read_text() == yardcut("completion", shell, "--print", cwd=yard, **home).stdout
    assert ("compinit" in done.stdout) is (shell == "zsh")
    if shutil.which(shell):
        assert subprocess.run([shell, "-n", path], capture_output=True, check=False).returncode == 0
    assert yardcut("completion", shell, cwd=yard, **home).returncode == 0, "it may be installed again"


def test_where_it_cannot_be_installed_it_says_so(yard: Path) -> None:
    (yard / "data").write_text("a file")
    assert_sentence(yardcut("completion", "bash", cwd=yard, XDG_DATA_HOME=str(yard / "data")), 1, "cannot be made")
    assert_sentence(yardcut("completion", "csh", cwd=yard), 2, "csh")


def test_a_report_of_a_fault_has_versions_and_places(yard: Path) -> None:
    short = yardcut("--version", cwd=yard).stdout
    long = yardcut("--version", "--long", cwd=yard, XDG_CACHE_HOME=str(yard / "cache")).stdout
    assert long.startswith(short)
    assert sys.executable in long
    for said in ("textual ", "pyarrow ", "numpy ", str(yard / "cache" / "yardcut"), "yardcut.log", "config.toml"):
        assert said in long
