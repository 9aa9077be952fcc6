"""Which parts of a source stand elsewhere, what they are called, and fetching those that are files."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from yardcut.core.errors import SourceError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere.addresses import (
    file_of,
    forget_patterns,
    is_address,
    is_file,
    is_fresh,
    met_already,
    met_by,
    read_anew,
)
from yardcut.core.sources.elsewhere.ways import way_of
from yardcut.core.sources.piped import came_through_a_pipe
from yardcut.core.sources.spec import SourceSpec


def is_elsewhere(spec: SourceSpec) -> bool:
    """Tell whether any part of a source stands elsewhere."""
    return any(map(is_address, spec.files))


def addresses_in(spec: SourceSpec) -> list[str]:
    """Return the addresses of a source, those that a pattern meets in its place. Raises ``SourceError``."""
    return [each for written in spec.files if is_address(written) for each in met_by(written)]


def is_on_a_server(spec: SourceSpec) -> bool:
    """Tell whether any part of a source is a table of a server."""
    return any(is_address(written) and not is_file(written) for written in spec.files)


def carries_out_cuts(spec: SourceSpec) -> bool:
    """Tell whether a source is one table of a server that can carry out a cut where its rows are."""
    way = way_of(spec.files[0]) if len(spec.files) == 1 else None
    return way is not None and way.runs_cuts


def is_to_be_fetched(spec: SourceSpec) -> bool:
    """Tell whether files of a source were not looked for in this process yet. Raises ``SourceError``."""
    return is_elsewhere(spec) and any(is_file(each) and not is_fresh(each) for each in addresses_in(spec))


def fetch_files(spec: SourceSpec, token: CancelToken, progress: Progress) -> None:
    """Fetch the files of a source that stand elsewhere, where they are not here or others by now.

    Raises ``SourceError``, ``StoppedError``.
    """
    if is_to_be_fetched(spec):
        from yardcut.core.sources.elsewhere.fetching import fetch_file

        for address in filter(is_file, addresses_in(spec)):
            fetch_file(address, token, progress)


def called_paths(spec: SourceSpec, *, resolved: bool = False) -> list[str]:
    """Return the paths of a source's files, and its addresses. Raises ``SourceError``."""
    addresses = {file_of(each): each for each in addresses_in(spec)}
    return [addresses.get(path) or str(path.resolve() if resolved else path) for path in spec.paths()]


@contextmanager
def told_as_called(spec: SourceSpec) -> Iterator[None]:
    """Have errors name the files of a source as it does, and not where they are kept: standard input, an address."""
    try:
        yield
    except SourceError as error:
        for path, called in _kept_here(spec):  # nobody is asked anything for it
            error.message = error.message.replace(str(path), called)
        raise


def _kept_here(spec: SourceSpec) -> Iterator[tuple[Path, str]]:
    """Yield the files of a source that are kept in the cache, and what each is called."""
    for written in spec.files:
        if not is_address(written):
            if came_through_a_pipe(Path(written)):
                yield Path(written), Path(written).name
            continue
        with suppress(SourceError):
            yield from [(file_of(each), each) for each in met_already(written)]


def let_be_read_anew(spec: SourceSpec) -> None:
    """Let what stands elsewhere be fetched again when it is opened next. Raises ``SourceError``."""
    forget_patterns()
    for address in addresses_in(spec):
        read_anew(address)
