"""``yardcut show SLICE``: the list that a slice remembers."""

from __future__ import annotations

from pathlib import Path

import click


@click.command()
@click.argument("slice_path", metavar="SLICE", type=click.Path(path_type=Path))
def show(slice_path: Path) -> None:
    """Print the list that SLICE remembers: what cut it, with its dials and seeds, and what it met and left.

    Slices written as parquet, arrow, xlsx and sqlite remember it. `yardcut run SLICE --out PATH` cuts it again.
    """
    from yardcut.core.writers.carried_lists import carried_list

    click.echo(carried_list(slice_path), nl=False)
