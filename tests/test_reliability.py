"""A few turns of each hunt; ``make long`` takes many more."""

from __future__ import annotations

import sys
from pathlib import Path

import pytest

sys.path.insert(0, str(Path(__file__).parents[1]))

from reliability import damage, disk, keys, lines, truth
from reliability.hunt import Tally, turns

from thoroughness import IS_LONG

SEEDS = {
    "lines": (lines.turn, 12),
    "damage": (damage.turn, 10),
    "disk": (disk.turn, 4),
    "keys": (keys.turn, 1),
    "truth": (truth.turn, 1),
}


@pytest.mark.long
@pytest.mark.parametrize("hunt", SEEDS)
def test_a_few_turns_find_nothing(hunt: str, tmp_path: Path) -> None:
    turn, count = SEEDS[hunt]
    for seed in range(count if IS_LONG else 1):
        place = tmp_path / str(seed)
        place.mkdir()
        assert turn(seed, place) is None


def test_a_hunt_tells_what_it_finds_and_goes_on(tmp_path: Path) -> None:
    tally = Tally("x")
    found = turns("x", lambda seed, folder: "found" if seed % 2 else None, 1, 0.2, tmp_path, tally)
    first = next(found)
    assert (first.seed, first.said) == (1, "found")
    assert next(found).seed == 3
    assert tally.findings == 2


def test_the_command_hunts_would_notice_a_fault(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import yardcut.core.session

    def fails(*given: object, **named: object) -> None:
        raise KeyError("x")

    monkeypatch.setattr(yardcut.core.session, "open_table", fails)
    assert "exit code 70" in str(lines.turn(1, tmp_path))
