"""Writing a picture as SVG or PDF. The plotting library is loaded here and nowhere else, when a picture is written."""

from __future__ import annotations

import os
import unicodedata
import warnings
from collections.abc import Callable, Iterable, Sequence
from typing import TYPE_CHECKING, Any

from yardcut.core.errors import Mend, TargetError
from yardcut.core.outgoing import Outgoing
from yardcut.core.pictures.bar_data import BARS, LINE, MOST_BARS, STACKED, Bars, Series
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.settings.folders import cache_folder

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

_FORMATS = {".svg": "svg", ".pdf": "pdf"}
_FILLS = (
    ("#8c6a3f", ""),
    ("#d9cdbb", "////"),
    ("#4a6b5d", "...."),
    ("#b5483a", ""),
    ("#e8c15a", "xxxx"),
    ("#6d6d6d", "\\\\"),
)
"""Dark and light, plain and hatched: the first differ in grey too."""
_WIDTH, _ROW, _REST = 8.0, 0.26, 1.7
_LABEL, _PRINT = 42, 110
_NOT_SHOWN = frozenset(["Cc", "Cs", "Co", "Cn", "Zl", "Zp"])
"""Categories of control codes, halves of characters, private and unassigned ones, and separators of lines."""


def write_picture(bars: Bars, out: Outgoing) -> None:
    """Write bars as SVG (texts stay texts) or PDF, by the path's ending.

    The same bars give the same bytes. Raises ``TargetError``.
    """
    form = _FORMATS.get(out.path.suffix.lower())
    if form is None:
        raise TargetError(f"{out.path} is no picture of a known kind", mend=Mend("end it in .svg or .pdf"))
    os.environ.setdefault("MPLCONFIGDIR", str(cache_folder("plotting")))
    import matplotlib

    settings: Any = {
        "svg.fonttype": "none", "svg.hashsalt": "yardcut", "pdf.fonttype": 42, "hatch.linewidth": 0.6,
        "text.parse_math": False,
    }  # fmt: skip
    nothing = {"Date": None} if form == "svg" else {"CreationDate": None, "ModDate": None}
    # a character that the plotting library has no shape for is still there as text
    with matplotlib.rc_context(settings), warnings.catch_warnings(), out.opened() as beside:
        warnings.simplefilter("ignore")
        _figure(bars).savefig(beside, format=form, metadata=nothing)


def _figure(bars: Bars) -> Figure:
    from matplotlib.figure import Figure

    count = min(len(bars.labels), MOST_BARS)
    drawing = DRAWINGS[bars.kind]
    figure = Figure(figsize=drawing.size(bars, count), layout="constrained")
    axes = figure.add_subplot()
    drawing.draw(axes, bars, count)
    axes.set_title(_plain(bars.title, 90), loc="left", fontsize=11)
    axes.spines[["top", "right"]].set_visible(False)
    if len(bars.series) > 1:
        axes.legend(fontsize=7, frameon=False)
    more = f"the first {count:,} of {len(bars.labels):,} bars · " if count < len(bars.labels) else ""
    figure.supxlabel(_plain(more + bars.small_print, _PRINT), fontsize=6, color="#555555", x=0.01, ha="left")
    return figure


@dataclass(frozen=True, slots=True)
class Drawing:
    """How a kind of picture is drawn: its size in inches, and what stands between the axes."""

    size: Callable[[Bars, int], tuple[float, float]]
    draw: Callable[[Axes, Bars, int], None]


def _draw_bars(axes: Axes, bars: Bars, count: int) -> None:
    thickness = 0.8 / max(1, len(bars.series))
    for number, series in enumerate(bars.series):
        places = [place - 0.4 + thickness * (number + 0.5) for place in range(count)]
        _bars_of(axes, series, number, places, thickness, [0.0] * count)
        _write_beside(axes, places, series.values, series.texts)
    _frame(axes, bars, count)


def _draw_stacked(axes: Axes, bars: Bars, count: int) -> None:
    ends = [0.0] * count
    for number, series in enumerate(bars.series):
        _bars_of(axes, series, number, list(range(count)), 0.8, ends)
        ends = [end + value for end, value in zip(ends, series.values, strict=False)]
    told = [" · ".join(filter(None, texts)) for texts in zip(*(each.texts for each in bars.series), strict=True)]
    _write_beside(axes, range(count), ends, told)
    _frame(axes, bars, count)


def _bars_of(
    axes: Axes, series: Series, number: int, places: Sequence[float], thickness: float, ends: list[float]
) -> None:
    color, hatch = _FILLS[number % len(_FILLS)]
    axes.barh(
        places, series.values[: len(places)], thickness, left=ends, color=color, hatch=hatch, edgecolor="#4a3a24",
        linewidth=0.5, label=_plain(series.name, _LABEL), clip_on=False,
    )  # fmt: skip


def _draw_line(axes: Axes, bars: Bars, count: int) -> None:
    for number, series in enumerate(bars.series):
        color, marker = _FILLS[number % len(_FILLS)][0], "os^Dv"[number % 5]
        axes.plot(
            range(count), series.values[:count], color=color, marker=marker, markersize=3, linewidth=1.2,
            label=_plain(series.name, _LABEL), clip_on=False,
        )  # fmt: skip
    every = max(1, -(-count // _TICKS))
    places = range(0, count, every)
    axes.set_xticks(places, [_plain(bars.labels[place], _TICK_LABEL) for place in places], fontsize=7, rotation=45)
    axes.set_ylabel(_plain(bars.axis, _LABEL), fontsize=8)
    axes.tick_params(axis="y", labelsize=7)
    axes.set_ylim(min(0.0, bars.least), None)


_TICKS, _TICK_LABEL = 24, 16

DRAWINGS: dict[str, Drawing] = {
    BARS: Drawing(lambda bars, count: (_WIDTH, _REST + _ROW * max(1, count) * max(1, len(bars.series))), _draw_bars),
    STACKED: Drawing(lambda bars, count: (_WIDTH, _REST + _ROW * max(1, count)), _draw_stacked),
    LINE: Drawing(lambda bars, count: (_WIDTH, 4.5), _draw_line),
}
"""By the kind of picture."""


def _write_beside(axes: Axes, places: Iterable[float], ends: Iterable[float], texts: Iterable[str]) -> None:
    for place, end, text in zip(places, ends, texts, strict=False):
        axes.annotate(
            _plain(text, _LABEL), (end, place), (3 if end >= 0 else -3, 0), textcoords="offset points",
            va="center", ha="left" if end >= 0 else "right", fontsize=7,
        )  # fmt: skip


def _frame(axes: Axes, bars: Bars, count: int) -> None:
    axes.set_yticks(range(count), [_plain(label, _LABEL) for label in bars.labels[:count]], fontsize=8)
    axes.set_ylim(max(1, count) - 0.5, -0.5)
    axes.set_xlabel(_plain(bars.axis, _PRINT), fontsize=8)
    axes.tick_params(axis="x", labelsize=7)
    axes.margins(x=0.12)


def _plain(text: str, most: int) -> str:
    """Return a text of one line without characters that no document of this kind may hold."""
    shown = "".join("\N{MIDDLE DOT}" if unicodedata.category(char) in _NOT_SHOWN else char for char in text)
    return shown if len(shown) <= most else shown[: most - 1] + "…"
