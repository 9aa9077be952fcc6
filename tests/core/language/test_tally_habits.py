"""What people write from habit gets the line that does it."""

from __future__ import annotations

import pytest

from yardcut.core.errors import ListError
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.tui.cards.looking.help import help_entries


@pytest.mark.parametrize(
    ("written", "meant"),
    [
        ("group by species", "tally COUNT(*) per species"),
        ("group by species, grade", "tally COUNT(*) per species, grade"),
        ("count per species", "tally COUNT(*) per species"),
        ("count rows by species", "tally COUNT(*) per species"),
        ("sum(volume_m3) by species", "tally SUM(volume_m3) per species"),
        ("total volume_m3 per species", "tally SUM(volume_m3) per species"),
        ("average of price_per_m3 for each species", "tally AVG(price_per_m3) per species"),
        ("mean(price_per_m3) group by species, grade", "tally AVG(price_per_m3) per species, grade"),
        ("median price_per_m3 by grade", "tally MEDIAN(price_per_m3) per grade"),
        ("count(*) by grade", "tally COUNT(*) per grade"),
        ("make x = SUM(volume_m3) by species", "make x = SUM(volume_m3) PER species"),
        ("pivot species by grade", None),
        ("summarize volume_m3", None),
    ],
)
def test_the_line_that_was_meant_is_offered(written: str, meant: str | None) -> None:
    with pytest.raises(ListError) as caught:
        parse_statement(written)
    assert caught.value.mend is None or caught.value.mend.text == meant
    assert "tally" in str(caught.value) or "PER" in str(caught.value)
    if meant is not None:
        parse_statement(meant)


@pytest.mark.parametrize(
    "word",
    "sum total group average summary cross table pivot per mean median".replace("cross table", "cross_table").split(),
)
def test_help_finds_it(word: str) -> None:
    found = [entry for entry in help_entries() if word.replace("_", " ") in " ".join(entry).casefold()]
    assert any("tally" in " ".join(entry) for entry in found)
