"""The manual pages and the completions of shells, made from the commands: ``python -m yardcut.cli.manual FOLDER``."""

from __future__ import annotations

import sys
from pathlib import Path

import click
from click.shell_completion import BashComplete, FishComplete, ShellComplete, ZshComplete

from yardcut.cli.main import cli
from yardcut.core.settings.entries import ENTRIES

PAGE = "man/man1/yardcut.1"
_SHELLS: dict[str, type[ShellComplete]] = {
    "bash-completion/completions/yardcut": BashComplete,
    "zsh/site-functions/_yardcut": ZshComplete,
    "fish/vendor_completions.d/yardcut.fish": FishComplete,
}
_EXIT_CODES = (
    ("0", "done"),
    ("1", "it failed while running: a source that cannot be read, a target that exists, a full disk"),
    ("2", "the words, the list or a name in it are wrong"),
    ("3", "--strict found a difference, a file left out, or nothing left"),
    ("130", "stopped by the user"),
)
_VARIABLES = (
    ("XDG_CONFIG_HOME", "where the settings are (else ~/.config): yardcut/config.toml"),
    ("XDG_CACHE_HOME", "where tables are kept once they were read (else ~/.cache)"),
    ("XDG_STATE_HOME", "where the log, unsaved lists and the reports of last runs are kept (else ~/.local/state)"),
    *((entry.variable, entry.meaning) for entry in ENTRIES),
    ("NO_COLOR", "no colours, where it is set"),
    ("EDITOR", "what opens a long line for editing"),
)


def _plain(text: str) -> str:
    """Write a text so that roff takes none of it for a request."""
    escaped = text.replace("\\", "\\e").replace("-", "\\-")
    return "\n".join("\\&" + line if line.startswith((".", "'")) else line for line in escaped.split("\n"))


def _heading(name: str, does: str) -> list[str]:
    """Return the beginning of a page (man(7))."""
    return [f'.TH {name.upper()} 1 "" "Yard Cut" "User Commands"', ".SH NAME", _plain(f"{name} - {does}")]


def _command(name: str) -> tuple[click.Command, click.Context]:
    ctx = click.Context(cli, info_name="yardcut", **cli.context_settings)
    command = cli.get_command(ctx, name)
    assert command is not None
    return command, click.Context(command, info_name=name, parent=ctx)


def _exit_codes() -> list[str]:
    lines = [".SH EXIT STATUS"]
    for code, said in _EXIT_CODES:
        lines += [".TP", f"\\fB{code}\\fR", _plain(said)]
    return lines


def _usage(name: str) -> str:
    command, inner = _command(name)
    return _plain(" ".join(command.collect_usage_pieces(inner)))


def command_page(name: str) -> str:
    """Return the manual page of one command."""
    command, inner = _command(name)
    paragraphs = [" ".join(part.split()) for part in (command.help or "").split("\n\n")]
    does = command.get_short_help_str(300).rstrip(".")
    lines = _heading(f"yardcut-{name}", does[:1].lower() + does[1:])
    lines += [".SH SYNOPSIS", f".B yardcut {_plain(name)}", _usage(name), ".SH DESCRIPTION"]
    lines += [line for paragraph in paragraphs for line in (_plain(paragraph), ".PP")][:-1]
    lines.append(".SH OPTIONS")
    for parameter in command.get_params(inner):
        record = parameter.get_help_record(inner)
        if record is not None and isinstance(parameter, click.Option):
            lines += [".TP", f"\\fB{_plain(record[0])}\\fR", _plain(record[1])]
    lines += [*_exit_codes(), ".SH SEE ALSO", _plain("yardcut(1)")]
    return "\n".join(lines) + "\n"


def manual_page() -> str:
    """Return the manual page of the program, which names those of its commands."""
    lines = _heading("yardcut", "cut slices out of large tables: see every count before the cut, keep every offcut")
    lines += [
        ".SH SYNOPSIS", ".B yardcut", "[\\fISOURCE\\fR ...]", ".br", ".B yardcut",
        "\\fICOMMAND\\fR [\\fIOPTION\\fR ...]", ".SH DESCRIPTION",
        _plain("Without a command the sources are opened in a full-screen application: files, patterns in quotes, a "
               "workbook, a database file, the address of a server, or a cutting list (.cut). The language of lists is "
               "described in docs/language.md."), ".SH COMMANDS",
    ]  # fmt: skip
    for name in cli.list_commands(click.Context(cli)):
        command, _ = _command(name)
        lines += [".TP", f"\\fByardcut {_plain(name)}\\fR {_usage(name)}"]
        lines.append(_plain(f"{command.get_short_help_str(300)} See yardcut-{name}(1)."))
    lines += [*_exit_codes(), ".SH ENVIRONMENT"]
    for variable, said in _VARIABLES:
        lines += [".TP", f"\\fB{_plain(variable)}\\fR", _plain(said)]
    lines += [
        ".SH EXAMPLES", ".nf",
        _plain("yardcut yard_2031.csv\n"
               "yardcut cut yard_2031.csv -l \"keep species = 'oak'\" -l 'draw first 10' --out ten.csv\n"
               "yardcut run winter-oak.cut --source yard_2032.csv --set best=20 --strict\n"
               "yardcut run bays.cut --each bay --out 'bay-{bay}.csv'"),
        ".fi",
    ]  # fmt: skip
    return "\n".join(lines) + "\n"


def completion_of(shell: str) -> str:
    """Return what makes a shell (``bash``, ``zsh``, ``fish``) complete, as it is installed beside the program."""
    path = next(path for path in _SHELLS if path.startswith(shell))
    return _SHELLS[path](cli, {}, "yardcut", "_YARDCUT_COMPLETE").source()


def shared_files() -> dict[str, str]:
    """Return what is installed beside the program, by its path below ``share``."""
    made = {path: shell(cli, {}, "yardcut", "_YARDCUT_COMPLETE").source() for path, shell in _SHELLS.items()}
    pages = {f"man/man1/yardcut-{name}.1": command_page(name) for name in cli.list_commands(click.Context(cli))}
    return {PAGE: manual_page(), **pages, **made}


def main() -> None:
    """Write them all below a folder."""
    folder = Path(sys.argv[1])
    for path, text in shared_files().items():
        (folder / path).parent.mkdir(parents=True, exist_ok=True)
        (folder / path).write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
