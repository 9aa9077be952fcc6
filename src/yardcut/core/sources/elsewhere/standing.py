"""Which parts of a source stand elsewhere, and what they are called."""

from __future__ import annotations

from yardcut.core.sources.elsewhere.addresses import file_of, is_address, read_anew
from yardcut.core.sources.spec import SourceSpec


def is_elsewhere(spec: SourceSpec) -> bool:
    """Tell whether any part of a source stands elsewhere."""
    return any(map(is_address, spec.files))


def called_paths(spec: SourceSpec, *, resolved: bool = False) -> list[str]:
    """Return the paths of a source's files, and its addresses. Raises ``SourceError``."""
    addresses = {file_of(written): written for written in spec.files if is_address(written)}
    return [addresses.get(path) or str(path.resolve() if resolved else path) for path in spec.paths()]


def let_be_read_anew(spec: SourceSpec) -> None:
    """Let what stands elsewhere be fetched again when it is opened next. Raises ``SourceError``."""
    for written in filter(is_address, spec.files):
        read_anew(written)
