"""Lining the columns of several files up by name, and saying where a file differs from the others."""

from __future__ import annotations

from collections.abc import Sequence

from yardcut.core.sources.formats.source_file import SourceFile
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_column import ColumnInfo
from yardcut.core.table.stored_table import Differences
from yardcut.core.values.kinds import Kind


def wanted_places(file: SourceFile, spec: SourceSpec) -> dict[str, int]:
    """Return the columns of a file that its ``only`` lines leave, with their places (from 0)."""
    wanted = spec.wanted(file.path, file.names)
    return {name: place for place, name in enumerate(file.names) if wanted is None or place in wanted}


def common_zone(name: str, files: Sequence[SourceFile]) -> str:
    """Return the zone that all files with a column of instants give it, or UTC where they differ; "" without any."""
    zones = {file.zones[name] for file in files if name in file.zones}
    return zones.pop() if len(zones) == 1 else "UTC" if zones else ""


def differences(number: int, files: Sequence[SourceFile], columns: Sequence[ColumnInfo]) -> Differences:
    """Say how the columns of one of several files differ from those of the stack."""
    if len(files) == 1:
        return Differences()
    file = files[number]
    elsewhere = {name for other in files if other is not file for name in other.names}
    own = dict(zip(file.names, file.kinds(), strict=True))
    stacked = {column.name: column.kind for column in columns}
    return Differences(
        tuple(name for name in stacked if name in elsewhere and name not in own),
        tuple(name for name in own if name in stacked and name not in elsewhere),
        tuple(
            (name, kind)
            for name, kind in own.items()
            if kind is not None and name in elsewhere and name in stacked and not _fits(kind, stacked[name])
        ),
    )


def _fits(kind: Kind, stacked: Kind) -> bool:
    return kind is stacked or (kind is Kind.INTEGER and stacked is Kind.NUMBER)
