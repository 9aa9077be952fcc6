"""The examples in docstrings are right: each that begins with ``>>>`` is run."""

from __future__ import annotations

import doctest
from importlib import import_module
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1] / "src"
WITH_EXAMPLES = sorted(
    ".".join(path.relative_to(ROOT).with_suffix("").parts)
    for path in ROOT.rglob("*.py")
    if ">>> " in path.read_text(encoding="utf-8")
)


@pytest.mark.parametrize("name", WITH_EXAMPLES)
def test_its_examples_are_right(name: str) -> None:
    found = doctest.testmod(import_module(name))
    assert found.attempted > 0
    assert found.failed == 0


def test_there_are_examples() -> None:
    assert len(WITH_EXAMPLES) >= 20
