"""The same screens where others go over the rows; when they are lost it is said, and this process goes on."""

from __future__ import annotations

from pathlib import Path

from cluster_here import Client
from tui.driving import Driven, drive
from yardcut.core.cluster.cluster_runner import ClusterRunner
from yardcut.core.cluster.connecting import Cluster
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.rounds import Runner
from yardcut.core.session import Runners
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.tui.app import YardCutApp


def test_counts_come_from_workers_and_when_these_are_lost_from_here(yard: Path) -> None:
    client = Client(lambda number: "finished" if client.status == "running" else "cancelled", 2)

    def runners(app: YardCutApp) -> Runners:
        cluster = Cluster(client, "tls://yard:8786", 2)

        def of(spec: SourceSpec, table: Table) -> Runner:
            lost = lambda error: app.lose_workers(f"{error.message}: here from now on")  # noqa: E731
            return ClusterRunner(cluster, spec, table, least_rows=0, when_lost=lost)

        return of

    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.line("keep species = 'ash'", "1,505")
        await app.until("1,505")
        asked = client.tasks
        assert asked, "workers counted"
        await app.line("draw top 3 by volume_m3 per grade")
        await app.until("draw    top 3")
        assert client.tasks > asked
        client.status = "closed"
        await app.press("up")
        await app.line("drop moisture_pct IS NULL")
        await app.until("workers lost", "none taken")
        asked = client.tasks
        await app.press("u")
        await app.until("took the last edit back")
        await app.line("keep boards > 5")
        await app.settled()
        assert client.tasks == asked, "nobody is asked any more"

    drive(yard / "yard_2031.csv", steps, runners=runners)


def test_the_other_side_of_a_comparison_is_gone_over_by_the_same_runner(yard: Path, tmp_path: Path) -> None:
    other = tmp_path / "later.csv"
    other.write_bytes((yard / "yard_2031.csv").read_bytes())
    asked: list[str] = []

    def runners(app: YardCutApp) -> Runners:
        def of(spec: SourceSpec, table: Table) -> Runner:
            asked.append(spec.label)
            return LocalRunner(table)

        return of

    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.line("keep species = 'ash'", "1,505")
        await app.press("C", "o")
        await app.until("also on ▸")
        await app.type(str(other))
        await app.press("enter")
        await app.until("yard_2031.csv beside later.csv", "avg")
        assert asked[-1] == "later.csv"

    drive(yard / "yard_2031.csv", steps, runners=runners)
