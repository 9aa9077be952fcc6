"""What people of the trade call things, and what that must find: among the first three, by any of them."""

from __future__ import annotations

import pytest

from yardcut.tui.finder.findable import entries
from yardcut.tui.finder.leads import Entry
from yardcut.tui.finder.word_search import Search

FINDS = {
    "line:keep ": "filter where subset criteria|find rows|select rows|how do I filter",
    "line:drop ": "exclude without|remove rows|delete rows",
    "line:order ": "sort arrange ascending descending|order by",
    "line:draw top ": "top best highest largest|top n",
    "line:draw bottom ": "bottom worst lowest smallest",
    "line:draw first ": "head limit|first rows",
    "line:draw last ": "tail|last rows",
    "line:draw random ": "random sample sampling shuffle|sample at random",
    "line:draw stratified ": "stratified strata proportional balanced|stratified sample",
    "line:draw part 1 of ": "partition holdout training folds|train and test|split",
    "line:draw every ": "systematic|every nth",
    "line:draw rows ": "offset skip|rows from|range of rows",
    "line:order {column} IN SEQUENCE (": "sequence|own order|custom order",
    "line:order {column} NUMBER AWARE": "alphanumeric|natural order",
    "act:tally": "group summary aggregate subtotal|group by|per group",
    "line:tally COUNT(*) per {column} along ": "pivot crosstab transpose|cross table",
    "line:tally SUM(": "sum total|add up",
    "line:tally AVG(": "average mean",
    "line:tally MEDIAN(": "median middle",
    "line:tally QUANTILE(": "percentile quartile quantile decile",
    "line:tally STDDEV_SAMP(": "stddev|standard deviation",
    "line:tally VAR_SAMP(": "variance",
    "line:tally COUNT(DISTINCT ": "distinct",
    "act:values": "frequency categories levels unique|value counts|distinct values|how many",
    "act:profile": "describe overview schema statistics profile",
    "act:rack": "select choose reorder hide columns|choose columns|select columns",
    "act:rename": "rename|rename column",
    "act:leave-out": "leave out|hide column|drop a column",
    "line:make ": "compute calculate formula derive|add a column|new column",
    "line:make new = CASE WHEN ": "if case recode bins else",
    "act:column-card": "convert cast type dtype|change the kind",
    "act:bring": "join lookup match merge|look up|left join|second table|another file",
    'line:keep {column} IN "': "paste ids membership|list of ids|rows on a list",
    "act:undo": "undo revert|take back|undo, please",
    "act:redo": "redo",
    "act:save": "export write output download save workbook",
    "act:save-list": "script pipeline reproducible rerun automate|next month",
    "act:copy": "clipboard copy",
    "line:drop REPEATED(": "duplicate duplicates dedupe deduplicate",
    "line:keep {column} IS NULL": "null blank nan na empty missing|no value|missing values",
    "line:make new = COALESCE(": "fill impute|replace null",
    "line:keep {column} CONTAINS '": "contains substring wildcard regex",
    "line:keep {column} BETWEEN ": "between",
    "line:keep {column} IN (": "|one of several|any of",
    "act:tree": "brackets boolean and or not",
    "act:find": "search locate|find a text|look for",
    "act:go": "jump|go to",
    "act:row-card": "record detail transpose",
    "act:offcut-grid": "removed rejected offcut|what was removed",
    "act:why": "why|no rows|zero rows|empty result",
    "act:picture": "chart plot graph picture bar svg",
    "act:explain": "explain documentation provenance audit methods lineage|how was this made",
    "act:dials": "parameter variable dial threshold slider",
    "act:cuts": "compare diff scenario cuts",
    "act:source": "delimiter encoding separator worksheet stack union concat",
    "act:again": "refresh reload|read again",
    "act:freeze": "freeze pin",
    "act:off": "disable mute|switch off",
    "act:note": "comment annotate note",
    "act:kept": "crash recover autosave",
    "act:theme": "theme dark light",
    "act:leave": "quit exit",
    "act:stop": "cancel abort",
    "line:make share = ": "percentage share|percent of total",
    "line:make new = ROUND(": "round rounding decimals",
    "line:make new = UPPER(": "uppercase capitals",
    "line:make new = TRIM(": "trim strip whitespace",
    "line:draw random 500 weighted by ": "weighted weights",
    "line:draw random 500 with replacement": "bootstrap replacement resample",
}  # fmt: skip
SEARCH = Search(entries([("species", "text", 0), ("moisture_pct", "number", 4)]))


def _cases() -> list[tuple[str, str]]:
    """Words stand between blanks up to the first stroke; behind it come sayings of several words."""
    found = []
    for lead, said in FINDS.items():
        single, *sayings = said.split("|")
        found += [(word, lead) for word in [*single.split(), *sayings]]
    return found


def _leads(entry: Entry) -> str:
    return f"act:{entry.lead.action}" if entry.lead.action else f"line:{entry.lead.text}" if entry.lead.text else ""


def test_there_are_many_words() -> None:
    assert len(_cases()) >= 150


@pytest.mark.parametrize(("word", "lead"), _cases())
def test_what_people_call_it_leads_there(word: str, lead: str) -> None:
    first = [_leads(entry) for entry in SEARCH.find(word).entries[:3]]
    assert lead in first, [(entry.left, _leads(entry)) for entry in SEARCH.find(word).entries[:5]]


@pytest.mark.parametrize("word", ["up", "down", "scroll", "page", "row", "column", "left", "the"])
def test_keys_that_only_move_come_last(word: str) -> None:
    moves = [entry.moves for entry in SEARCH.find(word).entries]
    assert moves == sorted(moves)


@pytest.mark.parametrize(
    ("typed", "instead"),
    [("precentile", "percentile"), ("avrage", "average"), ("stratifyed", "stratified"), ("dublicates", "duplicates")],
)
def test_a_misspelt_word_is_taken_as_the_one_it_means_and_that_is_said(typed: str, instead: str) -> None:
    found = SEARCH.find(typed)
    assert found.instead == instead
    assert found.entries == SEARCH.find(instead).entries


def test_a_column_is_found_by_part_of_its_name() -> None:
    assert SEARCH.find("moist").entries[0].lead.place == 4


def test_nothing_is_found_of_nonsense() -> None:
    assert SEARCH.find("xqzzkv").entries == ()


def test_no_words_find_everything_and_small_words_alone_do_not_hide_all() -> None:
    assert len(SEARCH.find("").entries) > 300
    assert SEARCH.find("how do i").entries
