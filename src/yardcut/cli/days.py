"""Days as values of options."""

from __future__ import annotations

import click


class _Day(click.ParamType[int]):
    """A day in ISO form, as days since 1970-01-01."""

    name = "day"

    def convert(self, value: str, param: click.Parameter | None, ctx: click.Context | None) -> int:
        from yardcut.core.values.temporal import parse_date

        try:
            days = parse_date(value)
        except ValueError as error:
            self.fail(str(error), param, ctx)
        if days is None:
            self.fail(f"{value} is not a day: write it as 2031-03-01", param, ctx)
        return days


DAY = _Day()
