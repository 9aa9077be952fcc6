"""Random tallies, values of a row's group, and lines below a tally, where few columns stand."""

from __future__ import annotations

from reference.generating import Generator, quoted

AGGREGATES = ("SUM", "AVG", "MIN", "MAX", "MEDIAN", "VAR_SAMP", "STDDEV_SAMP", "COUNT")


class TallyGenerator:
    """Makes the lines of a cut with a tally in it."""

    def __init__(self, seed: int) -> None:
        self.of = Generator(seed)
        self.names: dict[str, str] = {}

    def cut(self) -> list[str]:
        """Return up to two lines, a tally, and lines below it."""
        of = self.of
        above = [of.line() for _ in range(of.pick(0, 0, 1, 2))]
        below = [self._below() for _ in range(of.pick(0, 1, 1, 2))] if (tally := self.tally()) else []
        return [*above, tally, *below]

    def aggregate(self) -> tuple[str, str]:
        """Return an aggregate, and its kind."""
        of = self.of
        name = of.pick(*AGGREGATES, "COUNT(*)", "COUNT(DISTINCT", "QUANTILE")
        kind = of.pick(
            "integer",
            "number",
            "number",
            *(["text", "date"] if name in ("MIN", "MAX", "COUNT", "COUNT(DISTINCT") else []),
        )
        inside = of._inside(kind) if of.maybe(0.4) else of.name(kind)
        if name == "COUNT(*)":
            written = name
        elif name == "COUNT(DISTINCT":
            written = f"COUNT(DISTINCT {inside})"
        elif name == "QUANTILE":
            written = f"QUANTILE({inside}, {of.pick('0', '0.25', '0.9', '1')})"
        else:
            written = f"{name}({inside})"
        if of.maybe(0.3):
            of.wholes = False
            written += f" FILTER (WHERE {of.condition(1)})"
            of.wholes = True
        counts = name.startswith("COUNT")
        kept = name in ("SUM", "MIN", "MAX")
        return written, "integer" if counts else kind if kept else "number"

    def of_a_group(self) -> str:
        """Return a keep or make line with values of the row's own group."""
        of = self.of
        written, kind = self.aggregate()
        per = of.pick(of.name("text"), of.name("boolean"), f"({of.name('text')}, {of.name('boolean')})", f"UPPER({of.name('text')})",
                      f"({of._inside('integer')})")  # fmt: skip
        if kind in ("text", "date"):
            return f"make made = {written} PER {per}"
        return str(of.pick(f"make made = {of.name('integer')} - {written} PER {per}", f"keep {of.name('number')} > {written} PER {per}",
                           f"draw top 5 by ({of.name('number')} - {written} PER {per}) per {of.name('boolean')}"))  # fmt: skip

    def tally(self) -> str:
        """Return a tally, and know its columns from now on."""
        of = self.of
        self.names = {}
        measures = []
        for number in range(of.pick(1, 1, 2, 3)):
            written, kind = self.aggregate()
            if number == 0 and of.maybe(0.2):
                written, kind = f"{written} * 2 + COUNT(*)" if kind != "text" and kind != "date" else written, "number"
            measures.append(f"{written} AS m{number}")
            self.names[f"m{number}"] = kind
        groups = {}
        for number in range(of.pick(0, 1, 1, 2)):
            kind = of.pick("text", "text", "boolean", "integer", "date", "number", "time")
            if of.maybe(0.6):
                name = of.name(kind)
                groups[name] = name
            else:
                groups[f"g{number}"] = (
                    f"{of._inside(kind) if kind != 'boolean' else '(' + of.piece(1) + ')'} AS g{number}"
                )
                kind = kind if kind != "boolean" else "boolean"
            self.names[list(groups)[-1].strip('"')] = kind
        line = f"tally {', '.join(measures)}"
        if len(measures) == 1 and of.maybe(0.15):
            line, self.names = (
                "tally COUNT(*)",
                {"count": "integer", **{name: kind for name, kind in self.names.items() if name != "m0"}},
            )
        if groups:
            line += f" per {', '.join(groups.values())}"
        if of.maybe(0.25):
            self.names = {name: kind for name, kind in self.names.items() if not name.startswith(("m", "count"))}
            line += (
                f" along {of.pick('word', 'flag', 'small', 'day')}{of.pick('', '')}"
                if of.maybe(0.7)
                else " along word IN SEQUENCE ('oak', 'nobody', 'ash')"
            )
        return line

    def _below(self) -> str:
        of = self.of
        if not self.names:
            return "draw first 3"
        name, kind = of.pick(*self.names.items())
        column = quoted(name)
        of.made += 1
        if kind in ("integer", "number"):
            return str(of.pick(f"keep {column} > {of.literal(kind)}", f"order {column} DESC, {quoted(next(iter(self.names)))}", f"draw top 3 by {column}",
                               f"make n{of.made} = {column} / SUM({column})", f"draw random 4 seed {of.pick(1, 7)}", f"tally SUM({column}) AS s{of.made}, COUNT(*) AS c{of.made}",
                               f"drop {column} IS NULL"))  # fmt: skip
        return str(of.pick(f"order {column}", f"keep {column} IS NOT NULL", f"tally COUNT(*) AS n per {column}", f"columns {column}, *",
                           f"make n{of.made} = COUNT(*) PER {column}", "draw random 50 percent seed 3", f"draw stratified 4 per {column} seed 2"))  # fmt: skip
