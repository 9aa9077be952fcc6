"""Runs, and the app, whose rounds other processes make."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import click

from yardcut.core.progress import CancelToken, Progress

if TYPE_CHECKING:
    from yardcut.core.cluster.cluster_runner import Traffic
    from yardcut.core.errors import ClusterError
    from yardcut.core.run.explaining.report import Report
    from yardcut.core.scanning.rounds import Runner
    from yardcut.core.session import Runners, Session
    from yardcut.core.sources.spec import SourceSpec
    from yardcut.core.table.stored_table import Table

CLUSTER = click.option(
    "--cluster", metavar="ADDRESS",
    help="Let the workers of a scheduler go over the rows; local starts two here for a try.",
)  # fmt: skip
CERTIFICATES = click.option(
    "--cluster-tls", metavar="DIR", type=click.Path(path_type=Path),
    help="The certificates for --cluster: ca.pem, cert.pem and key.pem.",
)  # fmt: skip


def check_options(address: str | None, certificates: Path | None, *, there: bool = False) -> None:
    """Raise ``click.UsageError`` for options that say nothing together."""
    if there and address is not None:
        raise click.UsageError("--there and --cluster do not go together")
    if certificates is not None and address is None:
        raise click.UsageError("--cluster-tls needs --cluster: the address of a scheduler")


@contextlib.contextmanager
def opened_on(
    session: Session, address: str | None, certificates: Path | None, token: CancelToken, progress: Progress
) -> Iterator[tuple[Table, Traffic | None]]:
    """Open a session's source; its rounds are made by the workers of a cluster, if one is named, as long as this lasts.

    Raises ``ClusterError``, ``SourceError``, ``ListError``, ``StoppedError``.
    """
    if address is None:
        yield session.open(token, progress), None
        return
    from yardcut.core.cluster.cluster_runner import ClusterRunner
    from yardcut.core.cluster.connecting import connected
    from yardcut.core.run.executing.executor import Executor

    progress.begin("starting workers", 0)
    with connected(address, certificates) as cluster:
        table = session.open(token, progress)
        runner = ClusterRunner(cluster, session.spec, table)
        session.use_all(table, Executor(runner))
        yield table, runner.traffic


@contextlib.contextmanager
def runners_on(
    address: str | None, certificates: Path | None, when_lost: Callable[[ClusterError], None]
) -> Iterator[Runners | None]:
    """Yield what gives runners on a cluster, as long as it lasts; a table that others cannot read is gone over here.

    Raises ``ClusterError``, ``SourceError``.
    """
    if address is None:
        yield None
        return
    from yardcut.core.cluster.cluster_runner import ClusterRunner
    from yardcut.core.cluster.connecting import connected
    from yardcut.core.errors import SourceError
    from yardcut.core.scanning.local import LocalRunner

    with connected(address, certificates) as cluster:

        def runner_of(spec: SourceSpec, table: Table) -> Runner:
            try:
                return ClusterRunner(cluster, spec, table, when_lost=when_lost)
            except SourceError:
                return LocalRunner(table)

        yield runner_of


def with_traffic(
    reports: list[tuple[Path | None, Report]], traffic: Traffic | None
) -> list[tuple[Path | None, Report]]:  # fmt: skip
    """Return reports, of which the last says what workers did for all."""
    if traffic is not None:
        reports[-1][1].notes.append(traffic.sentence())
    return reports
