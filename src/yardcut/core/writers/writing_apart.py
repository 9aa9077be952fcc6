"""Saving a slice by other processes: each writes parts into a folder beside the target, which become what is wanted.

Formats whose files can stand behind each other become one file; the parts of a parted slice are put in their places.
Everything else, and what is too little to be worth it, is written here.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from yardcut.core.errors import TargetError
from yardcut.core.expressions.frame import Frame, columns_needed
from yardcut.core.formats import function
from yardcut.core.language.save_options import ENCODING
from yardcut.core.outgoing import Outgoing, writing_to
from yardcut.core.placing import folder_beside
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Runner
from yardcut.core.scanning.shared_folders import SharedFolder
from yardcut.core.sources.spec import SourceSpec, from_anywhere
from yardcut.core.writers.formats.compressing import open_for_writing
from yardcut.core.writers.part_files import PartFile, PartFiles, this_process
from yardcut.core.writers.plans import Plan
from yardcut.core.writers.putting_together import put_together
from yardcut.core.writers.saving_slices import Parting, Written, parts_and_paths, with_more_said, written_parts
from yardcut.core.writers.texts.own_texts import are_read_again, stand_at_known_places

LEAST_ROWS = 1 << 19
"""Rows that are written here sooner than somebody is asked."""
_ROWS_A_PART = 1 << 20
_UTF_8 = (None, "utf-8", "utf8")


class _NotSeenError(Exception):
    """Somebody does not see the folder."""


@dataclass(frozen=True, slots=True)
class Apart:
    """Saves one slice by whoever makes rounds elsewhere."""

    runner: Runner
    spec: SourceSpec
    token: CancelToken
    progress: Progress

    def save(self, piece: Frame, out: Outgoing, plan: Plan, parting: Parting | None) -> tuple[Written | None, str]:
        """Write a slice and return what was written; nothing where it is to be written here, and why ("": no matter).

        Raises ``TargetError``, ``SourceError``, ``ClusterError`` and ``StoppedError``; nothing half-written is left.
        """
        if not self._is_worth_it(piece, out, plan, parting):
            return None, ""
        with writing_to(out.path), folder_beside(out.path) as folder:
            shared = SharedFolder.marked(folder)
            try:
                if parting is None:
                    return self._joined(piece, out, plan, shared), ""
                return self._parted(piece, out, plan, parting, shared), ""
            except _NotSeenError:
                return None, f"written here: workers do not see {out.path.parent.resolve()}"

    def _is_worth_it(self, piece: Frame, out: Outgoing, plan: Plan, parting: Parting | None) -> bool:
        if not self.runner.workers or piece.table is not self.runner.table or piece.rows.count < LEAST_ROWS:
            return False
        if out.path.is_fifo():
            return False
        if parting is None and not (plan.format.is_joined and _is_utf_8(plan)):
            return False
        if are_read_again(piece, plan):  # all of the source by everybody, where rows stand in another order
            in_order = piece.rows.order is None and (parting is None or parting.per_rows is not None)
            return in_order and stand_at_known_places(piece.table)
        return True

    def _joined(self, piece: Frame, out: Outgoing, plan: Plan, shared: SharedFolder) -> Written:
        rows, bare, spec = piece.rows, replace(plan, compression=""), from_anywhere(self.spec)
        if rows.order is None:
            ends = tuple(rows.cut_points(_ROWS_A_PART)[1:])
            work = PartFiles(piece.columns, ends, shared, str(out.path), bare, spec, True, members=rows.bits)
        else:
            ends = (*range(_ROWS_A_PART, rows.count, _ROWS_A_PART), rows.count)
            work = PartFiles(piece.columns, ends, shared, str(out.path), bare, spec, True, order=rows.order)
        with out.opened() as beside:
            with (
                open_for_writing(beside, plan.compression) as target,
                put_together(shared, len(ends), target, self.token) as whole,
            ):
                found = self._written(piece, work)
                self.progress.label = "putting parts together"
                size = whole()
            _check(beside, size, rows.count, plan, out.path)
        return self._with_who(Written(out.path, rows.count, out.path.stat().st_size), found)

    def _parted(self, piece: Frame, out: Outgoing, plan: Plan, parting: Parting, shared: SharedFolder) -> Written:
        parts = parts_and_paths(piece, out, parting, self.token, self.progress)
        ends = tuple(np.cumsum([part.rows for part, _ in parts]).tolist())
        ids = np.concatenate([part.ids() for part, _ in parts])
        spec = from_anywhere(self.spec)
        found = self._written(piece, PartFiles(piece.columns, ends, shared, str(out.path), plan, spec, order=ids))
        for number, (_, path) in enumerate(parts):
            out.at(path).take(shared.file(number))
        return self._with_who(written_parts(out.path, parts), found)

    def _written(self, piece: Frame, work: PartFiles) -> list[PartFile]:
        """Have all parts written. Raises ``_NotSeenError`` where somebody does not see the folder."""
        piece.table.load(columns_needed(piece.columns), self.token, self.progress)
        self.progress.begin("writing", work.ends[-1])
        found = self.runner.run(work, self.token, self.progress)
        parts = [each for each in found if each is not None]
        if len(parts) < len(found):
            raise _NotSeenError
        rows = sum(part.rows for part in parts)
        if rows != piece.rows.count:
            raise TargetError(f"{work.target}: of {piece.rows.count:,} rows {rows:,} were written")
        return parts

    def _with_who(self, written: Written, found: Sequence[PartFile]) -> Written:
        count = len({part.by for part in found} - {this_process()})
        parts = f"in {len(found):,} part{'s' * (len(found) != 1)}"
        who = [f"by {count:,} worker{'s' * (count != 1)} {parts}"] if count else []
        reasons = dict.fromkeys(part.why_not for part in found if part.why_not)
        return with_more_said(written, *who, *reasons)


def _is_utf_8(plan: Plan) -> bool:
    return not plan.format.delimiter or (plan.options[ENCODING] or "utf-8").lower() in _UTF_8


def _check(beside: Path, size: int, rows: int, plan: Plan, path: Path) -> None:
    """Raise ``TargetError`` where what was put together is not all of its parts, each of which was counted."""
    if not plan.compression:
        if beside.stat().st_size != size:
            raise TargetError(f"{path}: parts of {size:,} bytes became {beside.stat().st_size:,}")
    elif (found := function(plan.format.count)(beside, plan)) != rows:
        raise TargetError(f"{path}: {rows:,} rows were written and {found:,} read back")
