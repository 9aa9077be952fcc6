"""``yardcut completion SHELL``: what a shell completes, installed where it looks."""

from __future__ import annotations

import os
from pathlib import Path

import click

_PLACES = {
    "bash": ("XDG_DATA_HOME", ".local/share", "bash-completion/completions/yardcut"),
    "zsh": ("XDG_DATA_HOME", ".local/share", "zsh/site-functions/_yardcut"),
    "fish": ("XDG_CONFIG_HOME", ".config", "fish/completions/yardcut.fish"),
}
"""Of each shell: the variable that names the user's folder, what it is without, and the file below it."""


@click.command()
@click.argument("shell", metavar="SHELL", type=click.Choice(list(_PLACES)))
@click.option("--print", "prints", is_flag=True, help="Print it in place of installing it.")
def completion(shell: str, prints: bool) -> None:
    """Let SHELL (bash, zsh or fish) complete commands, files, cuts, dials, and lines with their columns behind -l.

    It is written to your own folder for completions; where the shell does not look there by itself, what is to be added
    to its settings is said.
    """
    from yardcut.cli.manual import completion_of
    from yardcut.core.errors import TargetError
    from yardcut.core.outgoing import Outgoing

    script = completion_of(shell)
    if prints:
        click.echo(script, nl=False)
        return
    variable, usual, file = _PLACES[shell]
    path = Path(os.environ.get(variable) or Path.home() / usual) / file
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise TargetError(f"{path.parent} cannot be made: {error.strerror}") from error
    Outgoing(path, replace=True).write(script.encode())
    click.echo(f"wrote {path}; a new {shell} completes yardcut")
    if shell == "zsh":
        click.echo(f"once, in ~/.zshrc above compinit:  fpath=({path.parent} $fpath)")
