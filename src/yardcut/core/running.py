"""Running cuts without the app: report, saves, and what changed since the last run."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from platformdirs import user_state_path

from yardcut.core.cutlist.file import place_in
from yardcut.core.cutlist.model import Cut
from yardcut.core.errors import ListError, Mend, SourceError, TargetError
from yardcut.core.expressions.frame import Frame, source_frame
from yardcut.core.language.verbs.save import BoundSave
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.binding import bind_cut
from yardcut.core.run.report import LineReport, Report
from yardcut.core.run.results import LineResult
from yardcut.core.run.unanswered import unanswered
from yardcut.core.session import Session, chosen_seed
from yardcut.core.writers.saving import Written, check_target, format_of, save_slice


@dataclass(frozen=True, slots=True)
class RunOptions:
    """What a run is told besides its list. ``base`` is the directory relative targets start from."""

    out: Path | None = None
    replace: bool = False
    base: Path = Path()


def check_cut(session: Session, cut: Cut) -> None:
    """Raise ``ListError`` with its place for the first wrong line of a cut."""
    assert session.table is not None
    path = str(session.list_path) if session.list_path else None
    for number, line in enumerate(bind_cut(cut, session.table, default_seed=0), 1):
        if line.error is not None:
            start = (line.line.place, len(line.line.indent) + 1) if path else (number, 1)
            place = place_in(line.line.text, line.error.start, *start, path)
            raise line.error.placed(place).in_statement(line.line.text)
        body = line.bound.body if line.bound else None
        if isinstance(body, BoundSave):
            format_of(Path(body.save.path), body.save.format)


def cuts_to_run(session: Session, name: str | None) -> list[int]:
    """Return which cuts a run runs: the one named, those with a save line, or the only one."""
    cuts = session.cut_list.cuts
    if name is not None:
        return [session.cut_list.cut_index(name)]
    saving = [
        index for index, cut in enumerate(cuts) if any(line.verb == "save" and not line.is_off for line in cut.lines)
    ]
    if saving:
        return saving
    if len(cuts) == 1:
        return [0]
    raise ListError(
        f"the list has {len(cuts)} cuts and none has a save line",
        mend=Mend("name one with --cut: " + ", ".join(f'"{cut.name}"' for cut in cuts)),
    )


def run_cut(
    session: Session,
    index: int,
    options: RunOptions,
    token: CancelToken,
    progress: Progress,
    said: Callable[[LineReport], None] = lambda line: None,
    standard_output: IO[str] | None = None,
) -> Report:
    """Run one cut: write what its save lines name, or CSV to ``standard_output`` when it has none.

    Targets are checked before anything runs. Raises ``ListError``, ``TargetError`` or ``StoppedError``.
    """
    table = session.table
    assert table is not None
    assert session.executor is not None
    cut = session.cut_list.cuts[index]
    check_cut(session, cut)
    targets = _targets(session, cut, options)
    report = Report(", ".join(map(str, session.spec.paths())), table.fingerprint, cut.name, table.rows,
                    [f"{column.name} {column.kind}" for column in table.columns])  # fmt: skip
    frame = source_frame(table)
    seed = chosen_seed()
    for number, result in enumerate(session.results(token, progress, cut=cut, seed=seed)):
        line = report.add(result)
        line.notes += unanswered(result, session.executor.runner, token)
        if number in targets:
            path, replace = targets[number]
            _write(session, result, path, replace, report, line, token, progress)
        said(line)
        frame = result.frame
    if not targets:
        if options.out is not None:
            written = _saved(session, frame, options.out, None, options.replace, token, progress)
            report.written, report.rows_written = str(written.path), written.rows
        elif standard_output is not None:
            from yardcut.core.writers.delimited import write_stream

            write_stream(frame, standard_output, ",", token, progress)
            report.rows_written = frame.rows.count
    return report


def _targets(session: Session, cut: Cut, options: RunOptions) -> dict[int, tuple[Path, bool]]:
    """Return where each save line, by its number, writes to, and whether it replaces. Raises ``TargetError``."""
    saves = [number for number, line in enumerate(cut.lines) if line.verb == "save" and not line.is_off]
    targets = {number: _target(cut, number, options, last=number == saves[-1]) for number in saves}
    for path, replace in targets.values():
        check_target(path, session.spec.paths(), replace=replace)
    if not saves and options.out is not None:
        format_of(options.out, None)
        check_target(options.out, session.spec.paths(), replace=options.replace)
    return targets


def _target(cut: Cut, number: int, options: RunOptions, *, last: bool) -> tuple[Path, bool]:
    save = cut.lines[number].statement().body
    if last and options.out is not None:
        return options.out, options.replace
    return options.base / save.path, options.replace or save.replace  # type: ignore[attr-defined]


def _write(
    session: Session, result: LineResult, path: Path, replace: bool, report: Report, line: LineReport,
    token: CancelToken, progress: Progress,
) -> None:  # fmt: skip
    body = result.line.bound.body if result.line.bound else None
    assert isinstance(body, BoundSave)
    named = (
        body.save.format if str(path) == str(Path(body.save.path)) or path.name == Path(body.save.path).name else None
    )
    written = _saved(session, result.frame, path, named, replace, token, progress)
    report.written, report.rows_written = str(written.path), written.rows
    rows = "1 row" if written.rows == 1 else f"{written.rows:,} rows"
    line.notes.append(f"wrote {written.path}: {rows} read back, {written.size_bytes:,} bytes")


def _saved(
    session: Session, frame: Frame, path: Path, named: str | None, replace: bool, token: CancelToken, progress: Progress
) -> Written:
    form = format_of(path, named)
    return save_slice(frame, path, form, sources=session.spec.paths(), replace=replace, token=token, progress=progress)


# what changed since the last run


def last_report_path(session: Session, cut: Cut) -> Path:
    """Return where the report of the last run of a cut is kept, in the user's state directory."""
    where = (
        session.list_path.resolve()
        if session.list_path
        else "\n".join(str(path.resolve()) for path in session.spec.paths())
    )
    key = hashlib.blake2b(f"{where}\n{cut.name}".encode(), digest_size=10).hexdigest()
    return user_state_path("yardcut") / "reports" / f"{key}.json"


def read_report(path: Path) -> dict[str, Any]:
    """Read a report written by an earlier run. Raises ``SourceError``."""
    try:
        found = json.loads(path.read_text(encoding="utf-8"))
        if not isinstance(found, dict) or not isinstance(found.get("columns"), list):
            raise ValueError
    except OSError as error:
        raise SourceError(f"the report {path} cannot be read: {error.strerror}") from error
    except ValueError:
        raise SourceError(f"{path} is not a report of a run") from None
    return found


def differences(earlier: dict[str, Any], report: Report) -> list[str]:
    """Say what a run met that the earlier one did not: columns gone, new, or of another kind."""
    before = dict(column.rsplit(" ", 1) for column in earlier["columns"])
    now = dict(column.rsplit(" ", 1) for column in report.columns)
    said = [f"the column {name} is gone" for name in before if name not in now]
    said += [f"the column {name} is new" for name in now if name not in before]
    said += [
        f"the column {name} was {before[name]} and is {kind} now"
        for name, kind in now.items()
        if name in before and before[name] != kind
    ]
    return said


def write_report(report: Report, path: Path) -> None:
    """Write a report as JSON. Raises ``TargetError``."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(json.dumps(report.as_json(), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    except OSError as error:
        raise TargetError(f"the report {path} cannot be written: {error.strerror}") from error
