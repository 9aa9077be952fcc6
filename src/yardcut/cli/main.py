"""The entry point. ``yardcut FILE`` opens the app; a first word that names a command runs that command."""

from __future__ import annotations

import re
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from yardcut.cli.ending import end_if_told, end_when_told
from yardcut.cli.saying import give_up_output, say
from yardcut.cli.typed_ahead import keys_kept
from yardcut.tui.collecting import collect_again, collect_later

if TYPE_CHECKING:
    from click.shell_completion import CompletionItem

    from yardcut.core.errors import ListError, YardcutError

_LAZY = {
    "open": ("yardcut.cli.commands.open", "open_app"),
    "demo": ("yardcut.cli.commands.demo", "demo"),
    "cut": ("yardcut.cli.commands.cut", "cut"),
    "run": ("yardcut.cli.commands.run", "run"),
    "check": ("yardcut.cli.commands.check", "check"),
    "explain": ("yardcut.cli.commands.explain", "explain"),
    "show": ("yardcut.cli.commands.show", "show"),
    "diff": ("yardcut.cli.commands.diff", "diff"),
    "gauge": ("yardcut.cli.commands.gauge", "gauge"),
    "sql": ("yardcut.cli.commands.sql", "sql"),
    "watch": ("yardcut.cli.commands.watch", "watch"),
    "completion": ("yardcut.cli.commands.completion", "completion"),
    "settings": ("yardcut.cli.commands.settings", "settings"),
}


class _Commands(click.Group):
    """Loads a command's module when it is called; anything else is a source to open."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(_LAZY)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in _LAZY:
            return None
        from importlib import import_module

        module, name = _LAZY[cmd_name]
        command: click.Command = getattr(import_module(module), name)
        end_if_told()
        if cmd_name != "open":
            collect_again()  # the app does so after its first paint
        return command

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """List the commands without loading them: a page of help is there at once."""
        room = formatter.width - 6 - max(map(len, _LAZY))
        with formatter.section("Commands"):
            formatter.write_dl([(name, _short_help(name, room)) for name in _LAZY])

    def invoke(self, ctx: click.Context) -> Any:
        """Begin the log with the first thing that is done."""
        from yardcut.cli.logs import log_to_file

        log_to_file()
        return super().invoke(ctx)

    def shell_complete(self, ctx: click.Context, incomplete: str) -> list[CompletionItem]:
        from yardcut.cli.completing import files_like

        return [*super().shell_complete(ctx, incomplete), *files_like(incomplete)]

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        first = args[0] if args else None
        if ctx.resilient_parsing and (first is None or first in _LAZY):
            return super().parse_args(ctx, args)  # a shell completes what is not typed yet
        if first is None or (first not in _LAZY and not first.startswith("-")) or first == "-":
            args = ["open", *args]
        return super().parse_args(ctx, args)


def _short_help(command: str, room: int) -> str:
    """Return the first sentence of what a command's own text says of it, as far as there is room."""
    module, function = _LAZY[command]
    path = Path(__file__).parent / "commands" / f"{module.rpartition('.')[2]}.py"
    text = path.read_text(encoding="utf-8")
    found = re.search(rf'^def {function}\(.*?"""(.*?)"""', text, re.DOTALL | re.MULTILINE)
    return click.Command(command, help=found[1] if found else "").get_short_help_str(room)


@click.command(cls=_Commands, context_settings={"help_option_names": ["-h", "--help"]})
@click.option(
    "--version", is_flag=True, is_eager=True, expose_value=False, callback=lambda *given: _version(*given),
    help="Show the version and exit; with --long also versions and places for a report of a fault.",
)  # fmt: skip
@click.option("--long", is_flag=True, is_eager=True, expose_value=False, hidden=True)
def cli() -> None:
    """Cut slices out of large tables: see every count before the cut, keep every offcut.

    `yardcut SOURCE` opens a table in the app, `yardcut LIST.cut` a cutting list.
    """


def _version(ctx: click.Context, param: click.Parameter, value: bool) -> None:
    from yardcut.cli.versions import print_version

    print_version(ctx, param, value)


def pointed_at(error: ListError) -> list[str]:
    """Return the line of a statement an error is in, and below it strokes under the place."""
    before = error.statement[: error.start]
    first = before.rfind("\n") + 1
    line = error.statement[first:].split("\n", 1)[0]
    column = error.start - first
    if len(line) > _LONGEST_POINTED_AT:  # what stands around the place, and no more
        begin = max(0, column - _AROUND)
        line, column = f"…{line[begin : begin + 2 * _AROUND]}…", column - begin + 1
    strokes = max(1, min(error.end - error.start, len(line) - column))
    return [f"  {line}", f"  {' ' * column}{'^' * strokes}"]


_LONGEST_POINTED_AT, _AROUND = 300, 100


def main() -> None:
    """Run the command line; errors a user can meet become one sentence and an exit code."""
    end_when_told()
    with keys_kept(sys.argv[1:]):
        _run()


def _allow_many_files() -> None:
    """Take all the open files the system allows: large tables of thousands of columns have a file for each."""
    import contextlib
    import resource

    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    with contextlib.suppress(ValueError, OSError):
        resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))


def _run() -> None:
    from yardcut.core.errors import YardcutError

    collect_later()
    _allow_many_files()
    # threads that scan hand the interpreter to each other, and to the screen, far oftener than every 5 ms
    sys.setswitchinterval(0.0005)
    try:
        cli.main(standalone_mode=False)
        sys.stdout.flush()
    except click.ClickException as error:
        if isinstance(error, click.UsageError) and error.ctx is not None:
            say(error.ctx.get_usage())
        say(f"yardcut: {error.format_message()}")
        sys.exit(2)
    except (click.Abort, KeyboardInterrupt):
        say("stopped")
        sys.exit(130)
    except YardcutError as error:
        _say_error(error)
        sys.exit(error.exit_code)
    except BrokenPipeError:
        # whoever read our output has seen enough
        give_up_output()
        sys.exit(0)
    except OSError as error:
        # whatever is read or written by name says so where it is; this is what is left
        give_up_output()
        what = error.filename or "standard output cannot be written"
        say(f"yardcut: {what}: {error.strerror or error}")
        sys.exit(1)
    except Exception as error:
        end_if_told()
        sys.exit(_say_unforeseen(error))


def _say_error(error: YardcutError) -> None:
    from yardcut.core.errors import ListError, UnquotedTextError

    say(f"yardcut: {error}")
    if isinstance(error, ListError) and error.statement:
        say("\n".join(pointed_at(error)))
    if isinstance(error, UnquotedTextError):
        say("the shell may have eaten the quotes: put the whole line in double quotes, \"keep x = 'oak'\"")


def _say_unforeseen(error: Exception) -> int:
    """Log an error nobody foresaw and tell of it; returns the exit code."""
    import logging

    from yardcut.cli.logs import log_to_file
    from yardcut.core.errors import UnforeseenError
    from yardcut.core.traces import trace

    log_to_file()
    logging.getLogger(__name__).error("nobody foresaw: %s", trace(error))
    say(f"yardcut: {UnforeseenError(error)}")
    return UnforeseenError.exit_code
