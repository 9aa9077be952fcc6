"""Running a cut line by line: bound, worked, with results."""
