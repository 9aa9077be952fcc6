"""The reports of runs on disk: that of the last run, kept for the next one, and those a user names."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Any

from yardcut.core.cutlist.model import Cut
from yardcut.core.errors import Mend, SourceError, TargetError
from yardcut.core.outgoing import Outgoing
from yardcut.core.private import private_folder, write_private
from yardcut.core.run.explaining.pattern_matches import Matches
from yardcut.core.run.explaining.report import Report
from yardcut.core.session import Session
from yardcut.core.sources.elsewhere.standing import called_paths
from yardcut.core.state import state_folder


def last_report_path(session: Session, cut: Cut) -> Path:
    """Return where the report of the last run of a cut is kept, in the user's state directory."""
    where = session.list_path.resolve() if session.list_path else "\n".join(called_paths(session.spec, resolved=True))
    key = hashlib.blake2b(f"{where}\n{cut.name}".encode(), digest_size=10).hexdigest()
    return state_folder() / "reports" / f"{key}.json"


def read_report(path: Path) -> dict[str, Any]:
    """Read what an earlier run reported: its ``columns``, ``patterns`` and ``lines``. Raises ``SourceError``."""
    try:
        found = json.loads(path.read_text(encoding="utf-8"))
        columns = found["columns"]
        if not all(" " in column for column in columns):  # a name and a kind each
            raise ValueError
        patterns = {str(pattern): list(map(str, names)) for pattern, names in found.get("patterns", {}).items()}
        lines = [
            {
                "text": str(line["text"]), "rows_in": int(line["rows_in"]), "rows_out": int(line["rows_out"]),
                "off": bool(line["off"]), "groups": list(map(str, line.get("groups", []))),
            }
            for line in found["lines"]
        ]  # fmt: skip
    except OSError as error:
        raise SourceError(f"the report {path} cannot be read: {error.strerror}") from error
    except (ValueError, TypeError, KeyError, AttributeError, RecursionError):
        raise SourceError(f"{path} is not a report of a run", mend=Mend("name a file that --report wrote")) from None
    return {"columns": [str(column) for column in columns], "patterns": patterns, "lines": lines}


def patterns_last_time(session: Session, cut: Cut) -> Matches:
    """Return what the patterns of a cut met in its last run; nothing where there was none."""
    try:
        found: Matches = read_report(last_report_path(session, cut))["patterns"]
    except SourceError:
        return {}
    return found


def keep_report(report: Report, path: Path) -> None:
    """Keep a report as that of the last run, in a folder of the user's own. Raises ``TargetError``."""
    try:
        private_folder(path.parent.parent)
        private_folder(path.parent)
        write_private(path, _content(report))
    except OSError as error:
        raise TargetError(f"the report {path} cannot be written: {error.strerror or error}") from error


def write_report(report: Report, out: Outgoing) -> None:
    """Write a report as JSON. Raises ``TargetError``."""
    out.write(_content(report))


def _content(report: Report) -> bytes:
    return (json.dumps(report.as_json(), indent=1, ensure_ascii=False) + "\n").encode("utf-8", "surrogatepass")
