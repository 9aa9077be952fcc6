"""What people write from habit gets the line that does it."""

from __future__ import annotations

import pytest

from yardcut.core.errors import ListError
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.tui.finder.findable import entries


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
    found = [entry for entry in entries() if word.replace("_", " ") in entry.text.casefold()]
    assert any("tally" in entry.text for entry in found)


@pytest.mark.parametrize(
    ("written", "meant"),
    [
        ("join mills.csv on mill_id = id", 'bring all from "mills.csv" by mill_id = id'),
        ('left outer join "my mills.csv" using (ticket)', 'bring all from "my mills.csv" by ticket'),
        ("merge with 'mills.csv' by mill_id", 'bring all from "mills.csv" by mill_id'),
        ("lookup mills", None),
        ("keep ticket IN 'asked.txt'", 'keep ticket IN "asked.txt"'),
        ("keep species NOT IN 'oak' AND grade = 'A'", "keep species NOT IN ('oak') AND grade = 'A'"),
    ],
)
def test_what_is_meant_of_a_second_table_is_offered(written: str, meant: str | None) -> None:
    with pytest.raises(ListError) as caught:
        parse_statement(written)
    assert (caught.value.mend.text if caught.value.mend is not None else None) == meant
    if meant is not None:
        parse_statement(meant)


@pytest.mark.parametrize("word", ["join", "merge", "look up", "missing tickets", "asked", "earlier"])
def test_help_finds_second_tables(word: str) -> None:
    found = entries()
    assert any(all(part in entry.text.lower() for part in word.split()[:1]) for entry in found)
