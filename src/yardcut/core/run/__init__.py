"""Running a cut: line after line, only what changed, with counts, reasons and a report."""
