"""What is to be said of a source as it was read: sentences, the most harmful first, and the report's entries."""

from __future__ import annotations

from collections import Counter
from typing import Any

from yardcut.core.language.syntax.printing import name_text
from yardcut.core.run.explaining.likely_renamed import likely_pairs
from yardcut.core.sources.delimited_blocks.dropped import TOO_FEW, TOO_MANY
from yardcut.core.sources.kinds.set_aside import read_set_aside
from yardcut.core.table.stored_table import FileInfo, Table
from yardcut.core.values.formatting import quote_name

_HARMFUL_SHARE = 1000
"""More than one row in so many, dropped for its cells, is harm rather than an accident."""
_MOST_SETTLED, _MOST_NAMED = 6, 12
_MOST_SAID = 6


def sentences(table: Table) -> list[str]:
    """Say what a user must know of a source, one sentence each, the most harmful first.

    Files left out come first, then rows lost for their cells, what differs between files (one sentence a file), what a
    column may be instead, values set aside, notes, and last what was dropped without harm.
    """
    info = table.info
    by_harm = sorted(info.files, key=_harm, reverse=True)
    lossy = [file for file in info.files if _is_lossy(file)]
    said = list(info.left_out)
    said += [
        f"{file.label}: {_lost(file):,} rows were lost for their cells, and {file.rows:,} read; is its form right?"
        for file in lossy
    ]
    said += [sentence for file in by_harm if (sentence := differences_of(file, table))]
    said += [f"{column.name}: {column.info.doubt}" for column in table.columns if column.info.doubt]
    said += [
        f"{column.name}: {column.info.set_aside:,} set aside, which are no {column.kind}"
        for column in table.columns
        if column.info.set_aside
    ]
    said += info.notes
    said += [f"{file.label}: dropped " + ", ".join(file.dropped_words()) for file in info.files if file.dropped]
    return said


def _lost(file: FileInfo) -> int:
    return sum(times for reason, times in file.dropped if reason in (TOO_MANY, TOO_FEW))


def _is_lossy(file: FileInfo) -> bool:
    return _lost(file) * _HARMFUL_SHARE > _lost(file) + file.rows


def _harm(file: FileInfo) -> tuple[int, int, int]:
    differs = file.differences
    return len(differs.kinds), len(differs.lacks), len(differs.alone)


def differences_of(file: FileInfo, table: Table) -> str:
    """Say in one sentence how a file's columns differ from those of the others; "" where they do not."""
    differs = file.differences
    pairs = likely_renamings(file, table)
    lacks = [name for name in differs.lacks if name not in pairs.values()]
    alone = [name for name in differs.alone if name not in pairs]
    parts = [f"{name} looks like {kind} here" for name, kind in differs.kinds]
    parts += [f"{new} may be {old} under another name" for new, old in pairs.items()]
    parts += [f"has no {name}" for name in lacks] + [f"alone has {name}" for name in alone]
    if not parts:
        return ""
    more = f" and {len(parts) - _MOST_SAID:,} more" if len(parts) > _MOST_SAID else ""
    return f"{file.label}: {', '.join(parts[:_MOST_SAID])}{more}"


def likely_renamings(file: FileInfo, table: Table) -> dict[str, str]:
    """Return the columns one file alone has that may be ones it lacks, of the same kind, under another name."""
    kinds = {column.name: column.kind for column in table.columns}
    alone, lacks = (
        [(name, kinds[name]) for name in names if name in kinds]
        for names in (file.differences.alone, file.differences.lacks)
    )
    return likely_pairs(alone, lacks)


def settling(table: Table) -> list[str]:
    """Return sub-lines that would settle what is in doubt: columns called otherwise, of another kind, or left out."""
    found = [line for column in table.columns for line in column.info.settled_by]
    for file in table.info.files:
        where = quote_name(file.label)
        found += [
            f"call {name_text(new)} {name_text(old)} in {where}" for new, old in likely_renamings(file, table).items()
        ]
        found += [f"kind {name_text(name)} {kind}" for name, kind in file.differences.kinds[:_MOST_SETTLED]]
    apart = {name for file in table.info.files for name in file.differences.alone}
    shared = [column.name for column in table.columns if column.name not in apart]
    if len(table.info.files) > 1 and 0 < len(shared) < len(table.columns) and len(shared) <= _MOST_NAMED:
        found.append("only " + ", ".join(map(name_text, shared)))
    return list(dict.fromkeys(found))


def file_entries(table: Table) -> list[dict[str, Any]]:
    """Return for the report, as plain data, what each file of the source was and what became of it."""
    aside: dict[int, Counter[str]] = {}
    for column in table.columns:
        if column.info.set_aside:
            for value in read_set_aside(table.folder, column.number):
                aside.setdefault(value.file_number, Counter())[column.name] += 1
    return [
        {
            "file": file.label,
            "size_bytes": file.size_bytes,
            "changed_ns": file.changed_ns,
            "form": file.form,
            "rows": file.rows,
            "dropped": dict(file.dropped),
            "set_aside": dict(aside.get(number, {})),
            "missing_columns": list(file.differences.lacks),
            "additional_columns": list(file.differences.alone),
            "other_kinds": {name: str(kind) for name, kind in file.differences.kinds},
        }
        for number, file in enumerate(table.info.files)
    ]
