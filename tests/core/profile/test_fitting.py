from __future__ import annotations

from pathlib import Path

import pytest

from helpers import WriteTable
from yardcut.core.profile.fitting import values_unfit
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import DeclaredKind
from yardcut.core.values.kinds import Kind

ROWS = [["1", "a1", "J"], ["2", "3", "n"], ["x", "4", "maybe"], [None, "4", ""], ["2.5", "4", "J"]]


@pytest.mark.parametrize(
    ("column", "declared", "values", "unfit", "commonest"),
    [
        (0, DeclaredKind(Kind.INTEGER), 4, 2, (("x", 1), ("2.5", 1))),
        (0, DeclaredKind(Kind.NUMBER), 4, 1, (("x", 1),)),
        (1, DeclaredKind(Kind.INTEGER), 5, 1, (("a1", 1),)),
        (1, DeclaredKind(Kind.TEXT), 5, 0, ()),
        (2, DeclaredKind(Kind.BOOLEAN, ("J", "N")), 4, 1, (("maybe", 1),)),
        (1, DeclaredKind(Kind.DATE, ("DD.MM.YYYY",)), 5, 5, (("4", 3), ("a1", 1), ("3", 1))),
    ],
)
def test_what_would_not_fit_is_counted_before(
    table_of: WriteTable, column: int, declared: DeclaredKind, values: int, unfit: int, commonest: tuple[object, ...]
) -> None:
    table = table_of(["n", "w", "flag"], ROWS)
    found = values_unfit(table, column, declared)
    assert (found.values, found.unfit, found.commonest) == (values, unfit, commonest)
    assert found.looked_at_all
    if unfit:
        assert f"{unfit} of {values} values do not fit {declared.kind}" in found.sentence()
    else:
        assert found.sentence() == f"{found.name}: all {values} values fit {declared.kind}"


def test_numbers_with_the_marks_of_their_file_fit(tmp_path: Path) -> None:
    (tmp_path / "t.csv").write_text("n;p\n" + "1;€ 1.234,50\n2;3,5 %\n" * 9)
    found = values_unfit(open_table(tmp_path / "t.csv"), 1, DeclaredKind(Kind.NUMBER))
    assert (found.values, found.unfit) == (18, 0)
