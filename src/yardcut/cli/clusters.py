"""Runs whose rounds other processes make."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken, Progress

if TYPE_CHECKING:
    from yardcut.core.cluster.cluster_runner import Traffic
    from yardcut.core.run.explaining.report import Report
    from yardcut.core.session import Session
    from yardcut.core.table.table import Table


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


def with_traffic(reports: list[Report], traffic: Traffic | None) -> list[Report]:
    """Return reports, of which the last says what workers did for all."""
    if traffic is not None:
        reports[-1].notes.append(traffic.sentence())
    return reports
