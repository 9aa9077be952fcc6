"""Random trees of the language, and random tables."""

from __future__ import annotations

from hypothesis import strategies as st

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.verbs.columns import Columns
from yardcut.core.language.verbs.draw_parts import Amount, Draw, Share, Strata
from yardcut.core.language.verbs.filter_parts import Drop, Keep
from yardcut.core.language.verbs.make import MadeItem, Make
from yardcut.core.language.verbs.order import Order
from yardcut.core.language.verbs.save import Save
from yardcut.core.language.write_options import WriteOptions
from yardcut.core.values.kinds import Kind

NAMES = ["species", "length_mm", "order", "kind", "Max Temp (C)", "per", "a.b", "case", "ø_1", 'with "quote"', "null"]

names = st.sampled_from(NAMES).map(t.Name)
dials = st.sampled_from(["best", "woods", "ø"]).map(t.Dial)
columns = names | dials | st.integers(1, 99).map(t.ColumnNumber) | st.integers(-99, -1).map(t.ColumnNumber)
texts = st.text(max_size=8).filter(lambda text: not any(0xD800 <= ord(char) < 0xE000 for char in text)).map(t.Text)
numbers = st.from_regex(r"(0|[1-9][0-9]{0,5})(\.[0-9]{1,3})?(e[+-]?[0-9])?", fullmatch=True).map(t.Number)
moments = st.integers(-10_000, 30_000).map(lambda day: t.Moment(Kind.DATE, day)) | st.integers(-(10**15), 10**15).map(
    lambda microsecond: t.Moment(Kind.TIMESTAMP, microsecond)
) | st.builds(
    lambda microsecond, minutes: t.Moment(Kind.INSTANT, microsecond, minutes), st.integers(-(10**15), 10**15),
    st.integers(-840, 840),
) | st.integers(0, 86_400_000_000 - 1).map(lambda clock: t.Moment(Kind.TIME, clock))  # fmt: skip
literals = (
    texts
    | numbers
    | moments
    | st.sampled_from([t.Truth(True), t.Truth(False), t.Truth(None), t.SourceRow(), t.CurrentDate()])
)
values = st.recursive(
    columns | literals,
    lambda inner: (
        inner.map(t.Negated)
        | st.builds(
            t.Call,
            st.sampled_from(["ABS", "MOD", "ROUND", "GREATEST"]),
            st.lists(inner, min_size=1, max_size=2).map(tuple),
        )
        | st.builds(
            t.Case,
            st.none() | inner,
            st.lists(st.tuples(inner, inner), min_size=1, max_size=2).map(tuple),
            st.none() | inner,
        )
        | st.builds(
            lambda value, side, char: t.Call("TRIM", (value, t.Word(side), *char)),
            inner,
            st.sampled_from(["BOTH", "LEADING", "TRAILING"]),
            st.lists(texts, max_size=1),
        )
        | st.builds(
            lambda name, one, other: t.Call(name, (one, other)),
            st.sampled_from(["SUBSTRING", "POSITION"]),
            inner,
            inner,
        )
        | st.builds(
            lambda field, value: t.Call("EXTRACT", (t.Word(field), value)), st.sampled_from(["YEAR", "SECOND"]), inner
        )
        | st.builds(lambda value, kind: t.Call("CAST", (value, t.Word(kind.value))), inner, st.sampled_from(Kind))
        | st.builds(t.Across, st.sampled_from(["SUM", "COUNT"]), names.map(lambda name: (t.OneColumn(name),)))
        | st.builds(t.Arithmetic, st.sampled_from(["+", "-", "*", "/", "%", "||"]), inner, inner)
    ),
    max_leaves=6,
)
flags = st.booleans()
tests = (
    st.builds(t.Comparison, st.sampled_from(["=", "<>", "<", "<=", ">", ">="]), values, values, flags)
    | st.builds(t.Distinct, values, values, flags)
    | st.builds(t.Between, values, values, values, flags, flags)
    | st.builds(t.In, values, st.lists(values, min_size=1, max_size=3).map(tuple), flags, flags)
    | st.builds(t.Like, values, texts | dials, st.none() | texts, flags, flags)
    | st.builds(t.LikeRegex, values, texts | dials, st.sampled_from(["", "i", "ims"]), flags)
    | st.builds(
        t.TextTest, st.sampled_from(["CONTAINS", "STARTS WITH", "ENDS WITH"]), values, texts | dials, flags, flags
    )
    | columns
)


def _joined(kind: type[t.And] | type[t.Or], items: list[t.Expression]) -> t.Expression:
    """AND of ANDs is one AND: brackets around the same word leave no trace in a tree that is equal."""
    flat: list[t.Expression] = []
    for item in items:
        flat.append(item)
    return kind(tuple(flat))


conditions = st.recursive(
    tests,
    lambda inner: (
        st.builds(t.Not, inner)
        | st.lists(inner, min_size=2, max_size=3).map(lambda items: _joined(t.And, items))
        | st.lists(inner, min_size=2, max_size=3).map(lambda items: _joined(t.Or, items))
        | st.builds(t.IsNull, inner, flags)
        | st.builds(t.IsTruth, inner, st.sampled_from([True, False, None]), flags)
        | st.builds(t.Off, inner)
    ),
    max_leaves=8,
)
sequences = st.just(()) | st.lists(literals, min_size=1, max_size=3).map(tuple)
sort_keys = st.lists(
    st.builds(t.SortKey, values, flags, flags, flags, flags, flags, sequences), min_size=1, max_size=3
).map(tuple)
seeds = st.none() | st.integers(0, 10**6)
amounts = st.integers(0, 10**6).map(lambda count: Amount(str(count))) | st.just(Amount(":best"))
percents = st.integers(0, 100).map(lambda share: Amount(str(share), percent=True))
groups = st.lists(values, max_size=2).map(tuple)
group_names = texts | numbers | moments | st.just(t.Truth(None))
draws = (
    st.builds(Draw, st.sampled_from(["first", "last"]), amounts | percents, per=groups, remainder=flags)
    | st.builds(Draw, st.just("random"), amounts | percents, per=groups, seed=seeds, remainder=flags)
    | st.builds(
        Draw,
        st.sampled_from(["top", "bottom"]),
        amounts | percents,
        st.lists(st.builds(t.SortKey, values), min_size=1, max_size=2).map(tuple),
        groups,
        flags,
    )
    | st.builds(
        lambda step, start: Draw("every", Amount(str(step)), start=start), st.integers(1, 99), st.integers(1, 99)
    )
    | st.builds(
        lambda first, more: Draw("rows", Amount(str(first)), start=first, end=first + more),
        st.integers(1, 99),
        st.integers(0, 99),
    )
    | st.just(Draw("rows", Amount(":a"), start=1, end=1, places=(("start", "a"), ("end", "b"))))
    | st.just(Draw("random", Amount("5"), places=(("seed", "s"),)))
    | st.builds(lambda one, other: Draw("from", reach=(one, other)), conditions, conditions)
    | st.builds(lambda rows, weight: Draw("random", Amount(str(rows)), weight=weight), st.integers(1, 99), values)
    | st.builds(
        lambda rows, per, how, seed: Draw("stratified", Amount(str(rows)), per=per, strata=how, seed=seed),
        st.integers(1, 99),
        st.lists(columns, min_size=1, max_size=2).map(tuple),
        st.sampled_from([None, Strata(), Strata("equal"), Strata("at least", 3)]),
        seeds,
    )
    | st.builds(
        lambda how, shares, per: Draw("stratified", per=(per, per), strata=Strata(how, shares=shares)),
        st.just("sizes"),
        st.lists(st.builds(Share, st.tuples(group_names, group_names), amounts), min_size=1, max_size=3).map(tuple),
        columns,
    )
    | st.sampled_from([Draw("part", Amount("2"), split=tuple(Amount(each, True) for each in ("33.3", "33.3", "33.4")))])
)
one_column = st.builds(t.OneColumn, columns, st.none() | st.sampled_from(NAMES))
items = (
    one_column
    | st.builds(t.ColumnRange, columns, columns)
    | st.sampled_from(["moisture_*", "*_on", "m?_x"]).map(t.ColumnPattern)
    | st.sampled_from(["d[0-9]+$", "a/b"]).map(t.ColumnRegex)
    | st.sampled_from(["text", "number", "date"]).map(t.ColumnsOfKind)
    | st.just(t.AllColumns())
)
column_lists = st.builds(
    Columns,
    st.lists(items | items.map(t.OffItem), min_size=1, max_size=4).map(tuple),
    st.lists(items, max_size=2).map(tuple),
)
options = st.builds(
    lambda **values: WriteOptions.of(values),
    delimiter=st.sampled_from([None, ";", "\t", "'", '"']), decimal=st.sampled_from([None, ","]), header=flags,
    encoding=st.sampled_from([None, "cp1252"]), quoting=st.sampled_from(["needed", "texts", "all"]),
    line_ends=st.sampled_from(["lf", "crlf"]), missing=st.none() | st.text(max_size=4).filter(str.isprintable),
    guard=flags, compression=st.sampled_from([None, "zstd"]), group_rows=st.none() | st.integers(1, 10**6),
    table=st.sampled_from([None, "it's"]), with_list=flags,
)  # fmt: skip
saves = st.builds(
    Save, st.text(min_size=1, max_size=9).filter(str.isprintable), st.sampled_from([None, "csv"]), flags, options,
    st.lists(values, max_size=2).map(tuple),
) | st.builds(lambda rows: Save("part-{n}.csv", per_rows=rows), st.integers(1, 10**6))  # fmt: skip
orders = st.builds(Order, sort_keys) | st.just(Order()) | st.builds(Order, st.just(()), st.just(True), seeds)
makes = st.builds(
    Make, st.lists(st.builds(MadeItem, st.sampled_from(NAMES), values), min_size=1, max_size=3).map(tuple)
)
bodies = makes | conditions.map(Keep) | conditions.map(Drop) | orders | draws | column_lists | saves
statements = st.builds(t.Statement, bodies, flags)
