"""``yardcut settings``: what is in force, and whence."""

from __future__ import annotations

import sys

import click

from yardcut.cli.saying import plain, say


@click.command()
@click.option("--example", is_flag=True, help="Print a whole settings file, each entry as it is by default.")
def settings(example: bool) -> None:
    """Print the settings in force: each entry, its value, and whether it comes from the file or the environment.

    Nothing among them changes the rows of a cut.
    """
    from yardcut.core.settings import settings_in_force as core
    from yardcut.core.settings.example import example_file
    from yardcut.tui.in_force import in_force
    from yardcut.tui.keys.actions import ACTIONS
    from yardcut.tui.keys.names import key_text

    if example:
        click.echo(example_file(), nl=False)
        return
    found = core.settings()
    there = "" if found.path.exists() else "   (not there)"
    click.echo(f"{plain(str(found.path))}{there}")
    width = max(map(len, found.found))
    now = in_force(found)
    for name, setting in found.found.items():
        value = plain(now.theme if name == "screen.theme" else setting.entry.shown(setting.value))
        click.echo(f"{name:<{width}}  {value:<24}  {plain(setting.whence)}")
    for action, own in zip(ACTIONS, now.keymap.actions, strict=True):
        if own.keys != action.keys:
            name, keys = f"keys.{own.id}", " ".join(map(key_text, own.keys))
            click.echo(f"{name:<{width}}  {plain(keys):<24}  {plain(str(found.path))}")
    for trouble in now.troubles:
        say(f"! {trouble}")
    if now.troubles:
        sys.exit(now.troubles[0].exit_code)
