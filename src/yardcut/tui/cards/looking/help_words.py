"""What the page of keys says besides keys and forms: the product's words, the trade's, and how values are written."""

from __future__ import annotations

TASKS = (
    "find your way", "look", "cut", "choose columns", "change the list", "keep the result", "answer a question",
)  # fmt: skip

WORDS: tuple[tuple[str, str, str], ...] = (
    ("words", "source", "the file, or the stack of files, that is read; it is never written to"),
    ("words", "cutting list, list", "the lines of a cut, from top to bottom; saved as a .cut file with F4"),
    ("words", "line, step", "one thing done to the table; x switches it off, e edits it, Del takes it out"),
    ("words", "offcut", "the rows a line removed, each with its reason: o on the line"),
    ("words", "gauge", "the strip under the table: figures of the column under the cursor, over the rows on screen"),
    ("words", "plank, bar", "under a line: what is left (solid), what it took (hatched), what was gone before (dotted)"),
    ("words", "seed", "the number a draw by chance starts from: the same seed draws the same rows"),
    ("words", "set aside", "values that do not fit their column's kind: counted, listed with file and line on the source card (i)"),
    ("how do I", "filter, where, find rows", "keep leaves the rows for which a condition is true, drop removes them"),
    ("how do I", "sort, order by", "order price_per_m3 DESC, grade: first by the first, then by the next"),
    ("how do I", "limit, head, first rows", "draw first 100; the best ones: draw top 100 by price_per_m3"),
    ("how do I", "sample at random", "draw random 500, draw random 10 percent, draw chance 1 in 10"),
    ("how do I", "select, choose, rename, hide columns", "columns ticket, species AS wood; all but some: columns all without moisture_*"),
    ("how do I", "compute, add a column", "make worth = volume_m3 * price_per_m3"),
    ("how do I", "undo, take back", "u takes the last edit back, U does it again; without end"),
    ("how do I", "export, write, save a file", "ctrl+s writes the slice, in the format of its ending: .csv .tsv .parquet .arrow .jsonl .json .xlsx .sqlite; a save line does so on every run"),
    ("how do I", "run it again, next month, without the app", "F4 saves the list; yardcut run LIST makes the slice of what the file holds then"),
    ("how do I", "stack files, join years, append", "yardcut 'yard_20*.csv' opens them as one table, lined up by name"),
    ("how do I", "remove totals", "on a cell that says ALL BAYS press Del: drop bay = 'ALL BAYS'"),
    ("how do I", "duplicates, rows twice", "keep REPEATED(ticket) shows the second and later ones, drop REPEATED(ticket) takes them out"),
    ("how do I", "sum, total, average, mean, median, count per group", "tally SUM(volume_m3) AS volume, AVG(price_per_m3) per species; t on a column puts one together"),
    ("how do I", "join, merge, look up, another file, a name for a code", 'bring name AS mill from "mills.csv" by mill_id = id; b proposes the keys'),
    ("how do I", "rows on a list, tickets somebody sent, what is not there", 'keep ticket IN "asked.txt"; n on the list shows what is not there; paste values into v'),
    ("how do I", "nearest earlier, as of, what held at that time", 'bring setting from "settings.csv" by bay, latest set_at <= kiln_in'),
    ("how do I", "group, summary, subtotal, cross table, pivot", "tally COUNT(*) per species along shift: a row for each species, a column for each shift"),
    ("how do I", "compare with the average of its group, share of the whole", "keep price_per_m3 > AVG(price_per_m3) PER species; make share = volume_m3 / SUM(volume_m3)"),
    ("how do I", "empty cells, blanks, missing values", "species IS NULL, species IS NOT NULL"),
    ("how values are written", "text, quote", "in single quotes, doubled inside: 'oak', 'it''s'"),
    ("how values are written", "name", "as it is; in double quotes when it is not one word: \"Max Temp (C)\""),
    ("how values are written", "number", "12 or 1.5, with a point and without thousands marks"),
    ("how values are written", "date, day", "felled_on >= '2031-03-01', or DATE '2031-03-01'"),
    ("how values are written", "time, timestamp", "kiln_in < '2031-03-01 14:00', with an offset for instants: '2031-03-01 14:00:00+01:00'"),
    ("how values are written", "true or false, boolean", "reserved, NOT reserved, reserved = TRUE"),
    ("how values are written", "comment", "-- to the end of the line, with a blank before and behind"),
)  # fmt: skip
