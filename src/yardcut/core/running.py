"""Running cuts without the app: report, saves, and what changed since the last run."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from pathlib import Path
from typing import IO, Any

from yardcut.core.cutlist.file import place_in
from yardcut.core.cutlist.model import Cut
from yardcut.core.errors import ListError, Mend, SourceError, TargetError
from yardcut.core.expressions.frame import Frame, source_frame, source_scope
from yardcut.core.language.verbs.save import BoundSave
from yardcut.core.private import private_folder, write_private
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.binding import bind_cut, day_of_now
from yardcut.core.run.pattern_matches import Matches, pattern_differences, pattern_matches
from yardcut.core.run.report import LineReport, Report
from yardcut.core.run.source_report import file_entries, sentences
from yardcut.core.run.unanswered import unanswered
from yardcut.core.session import Session, chosen_seed
from yardcut.core.state import state_folder
from yardcut.core.values.temporal import format_date
from yardcut.core.writers.saving import Written, format_of, save_slice
from yardcut.core.writers.targets import RunOptions, Target, check_targets, targets_of


def check_cut(session: Session, cut: Cut) -> None:
    """Raise ``ListError`` with its place for the first wrong line of a cut."""
    assert session.table is not None
    path = str(session.list_path) if session.list_path else None
    for number, line in enumerate(bind_cut(cut, session.table, default_seed=0, earlier=session.cuts_above(cut)), 1):
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
    targets = targets_of(cut, options)
    out = None if targets or options.out is None else Target(options.out, options.replace)
    check_targets([*targets.values(), *filter(None, [out])], session.spec.paths())
    if session.today is None:
        session.today = day_of_now()
    report = Report(", ".join(map(str, session.spec.paths())), table.fingerprint, cut.name, table.rows,
                    [f"{column.name} {column.kind}" for column in table.columns], files=file_entries(table),
                    left_out=list(table.info.left_out), met=sentences(table),
                    today=format_date(session.today))  # fmt: skip
    frame = source_frame(table)
    above = source_scope(table)
    seed = chosen_seed()
    for number, result in enumerate(session.results(token, progress, cut=cut, seed=seed)):
        line = report.add(result)
        report.patterns |= pattern_matches(result.line, above)
        above = result.line.scope
        line.notes += unanswered(result, session.executor.runner, token)
        if number in targets:
            written = _saved(session, result.frame, targets[number], token, progress)
            report.written, report.rows_written = str(written.path), written.rows
            line.notes.append(written.sentence())
        said(line)
        frame = result.frame
    if out is not None:
        written = _saved(session, frame, out, token, progress)
        report.written, report.rows_written = str(written.path), written.rows
        report.notes.append(written.sentence())
    elif not targets and standard_output is not None:
        from yardcut.core.writers.delimited import write_stream

        write_stream(frame, standard_output, ",", token, progress)
        report.rows_written = frame.rows.count
    return report


def _saved(session: Session, frame: Frame, target: Target, token: CancelToken, progress: Progress) -> Written:
    form = format_of(target.path, target.format)
    return save_slice(
        frame, target.path, form, sources=session.spec.paths(), replace=target.replace, token=token, progress=progress
    )


# what changed since the last run


def last_report_path(session: Session, cut: Cut) -> Path:
    """Return where the report of the last run of a cut is kept, in the user's state directory."""
    where = (
        session.list_path.resolve()
        if session.list_path
        else "\n".join(str(path.resolve()) for path in session.spec.paths())
    )
    key = hashlib.blake2b(f"{where}\n{cut.name}".encode(), digest_size=10).hexdigest()
    return state_folder() / "reports" / f"{key}.json"


def read_report(path: Path) -> dict[str, Any]:
    """Read a report written by an earlier run. Raises ``SourceError``."""
    try:
        found = json.loads(path.read_text(encoding="utf-8"))
        columns = found["columns"]
        if not all(" " in column for column in columns):  # a name and a kind each
            raise ValueError
        patterns = {str(pattern): list(map(str, names)) for pattern, names in found.get("patterns", {}).items()}
    except OSError as error:
        raise SourceError(f"the report {path} cannot be read: {error.strerror}") from error
    except (ValueError, TypeError, KeyError, AttributeError, RecursionError):
        raise SourceError(f"{path} is not a report of a run", mend=Mend("name a file that --report wrote")) from None
    return {"columns": [str(column) for column in columns], "patterns": patterns}


def patterns_last_time(session: Session, cut: Cut) -> Matches:
    """Return what the patterns of a cut met in its last run; nothing where there was none."""
    try:
        found: Matches = read_report(last_report_path(session, cut))["patterns"]
    except SourceError:
        return {}
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
    return said + pattern_differences(report.patterns, earlier.get("patterns", {}))


def keep_report(report: Report, path: Path) -> None:
    """Keep a report as that of the last run, in a folder of the user's own. Raises ``TargetError``."""
    try:
        private_folder(path.parent.parent)
        private_folder(path.parent)
    except OSError as error:
        raise _not_written(path, error) from error
    write_report(report, path)


def write_report(report: Report, path: Path) -> None:
    """Write a report as JSON. Raises ``TargetError``."""
    try:
        content = json.dumps(report.as_json(), indent=1, ensure_ascii=False) + "\n"
        write_private(path, content.encode("utf-8", "surrogatepass"))
    except OSError as error:
        raise _not_written(path, error) from error


def _not_written(path: Path, error: OSError) -> TargetError:
    return TargetError(f"the report {path} cannot be written: {error.strerror or error}")
