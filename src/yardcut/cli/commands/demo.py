"""``yardcut demo``: the Harrowmere timber yard."""

from __future__ import annotations

from pathlib import Path

import click


@click.command()
@click.option(
    "--rows", type=click.IntRange(1_000, 200_000_000), help="Make a yard of about this many rows in the cache."
)
@click.option("--write", "folder", type=click.Path(path_type=Path), help="Write the yard's files here and end.")
@click.option("--replace", is_flag=True, help="Allow files of --write that are there to be replaced.")
def demo(rows: int | None, folder: Path | None, replace: bool) -> None:
    """Open the app on the demo yard, made-up packs of boards, or write its files to a folder."""
    from yardcut.cli.commands.open import run_app
    from yardcut.cli.working import with_progress
    from yardcut.core.sources.spec import SourceSpec
    from yardcut.demo.files import demo_folder, write_yard

    if folder is not None:
        with_progress(lambda token, progress: write_yard(folder, rows, token, progress, replace=replace))
        click.echo(f"wrote the demo yard to {folder}")
        return
    ready = with_progress(lambda token, progress: demo_folder(rows, token, progress))
    run_app(SourceSpec(("yard_2031.csv",), (), ready))
