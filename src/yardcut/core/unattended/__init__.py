"""Running cuts without the app: report, saves, and what changed since the last run."""

from yardcut.core.unattended.differences_to_last import differences
from yardcut.core.unattended.reports import keep_report, last_report_path, patterns_last_time, read_report, write_report
from yardcut.core.unattended.running_cuts import check_cut, cuts_to_run, run_cut, run_cuts

__all__ = [
    "check_cut", "cuts_to_run", "differences", "keep_report", "last_report_path", "patterns_last_time", "read_report",
    "run_cut", "run_cuts", "write_report",
]  # fmt: skip
