"""What a report of a fault needs to know: versions, places, the terminal and the machine."""

from __future__ import annotations

import os
import sys

import click


def print_version(ctx: click.Context, param: click.Parameter, value: bool) -> None:
    """Print the version and leave; with ``--long`` all that a report needs, and nothing of any table."""
    if not value or ctx.resilient_parsing:
        return
    from importlib.metadata import version

    click.echo(f"yardcut {version('yardcut')}")
    if "--long" in sys.argv:
        for name, said in _known().items():
            click.echo(f"{name:<12}{said}")
    ctx.exit()


def _known() -> dict[str, str]:
    import platform
    from importlib.metadata import requires

    from yardcut.core.settings.folders import cache_folder
    from yardcut.core.settings.settings_in_force import settings_path
    from yardcut.core.state import log_path

    names = sorted(
        line.split(">")[0].split("=")[0].split(";")[0].strip()
        for line in requires("yardcut") or ()
        if "extra" not in line
    )
    terminal = " ".join(
        f"{name}={os.environ[name]}" for name in ("TERM", "COLORTERM", "NO_COLOR", "TMUX") if name in os.environ
    )
    return {
        "python": f"{platform.python_version()} at {sys.executable}",
        "system": f"{platform.system()} {platform.release()} {platform.machine()}, {os.cpu_count()} processors",
        "terminal": terminal or "none",
        "packages": ", ".join(f"{name} {_version(name)}" for name in names),
        "settings": str(settings_path()),
        "cache": str(cache_folder()),
        "log": str(log_path()),
    }


def _version(name: str) -> str:
    from importlib.metadata import PackageNotFoundError, version

    try:
        return version(name)
    except PackageNotFoundError:
        return "(not there)"
