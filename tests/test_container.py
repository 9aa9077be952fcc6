"""The container file: what it copies is there, what it installs exists, and it runs as nobody."""

from __future__ import annotations

import re
import tomllib
from pathlib import Path

ROOT = Path(__file__).parent.parent
LINES = [
    line for line in (ROOT / "Containerfile").read_text(encoding="utf-8").replace("\\\n", " ").splitlines()
    if line and not line.startswith("#")
]  # fmt: skip


def words(instruction: str) -> list[list[str]]:
    return [line.split()[1:] for line in LINES if line.split()[0] == instruction]


def test_what_is_copied_is_there() -> None:
    for *paths, _ in words("COPY"):
        for path in paths:
            if not path.startswith(("--from", "/opt")):
                assert list(ROOT.glob(path)), path


def test_the_extras_it_installs_exist() -> None:
    project = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]
    extras = re.search(r"\.\[([\w,]+)\]", " ".join(LINES))
    assert extras is not None
    assert set(extras[1].split(",")) <= set(project["optional-dependencies"])
    python = next(word for word in words("ARG")[0] if word.startswith("PYTHON=")).split("=")[1]
    assert python.startswith("3.")


def test_it_runs_as_nobody_and_keeps_what_it_keeps_where_nobody_may_write() -> None:
    assert words("USER") == [["nobody"]]
    assert LINES.index("USER nobody") < LINES.index('ENTRYPOINT ["yardcut"]')
    kept = dict(re.findall(r"(XDG_\w+|HOME)=(\S+)", " ".join(LINES)))
    made = next(line for line in LINES if "chown nobody" in line)
    folder = kept["HOME"]
    assert f"mkdir -p /yard {folder}" in made
    assert set(kept) == {"HOME", "XDG_CACHE_HOME", "XDG_STATE_HOME", "XDG_CONFIG_HOME"}
    assert all(path.startswith(folder) for path in kept.values())


def test_no_address_stands_in_it() -> None:
    assert "://" not in " ".join(LINES)
