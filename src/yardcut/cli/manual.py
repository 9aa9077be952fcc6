"""The manual page and the completions of shells, made from the commands: ``python -m yardcut.cli.manual FOLDER``."""

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


def manual_page() -> str:
    """Return the manual page (man(7)) of all commands."""
    ctx = click.Context(cli, info_name="yardcut")
    lines = [
        '.TH YARDCUT 1 "" "Yard Cut" "User Commands"', ".SH NAME",
        _plain("yardcut - cut slices out of large tables: see every count before the cut, keep every offcut"),
        ".SH SYNOPSIS", ".B yardcut", "[\\fISOURCE\\fR ...]", ".br", ".B yardcut",
        "\\fICOMMAND\\fR [\\fIOPTION\\fR ...]", ".SH DESCRIPTION",
        _plain("Without a command the sources are opened in a full-screen application: files, patterns in quotes, a "
               "workbook, a database file, or a cutting list (.cut). The language of lists is described in "
               "docs/language.md."), ".SH COMMANDS",
    ]  # fmt: skip
    for name in cli.list_commands(ctx):
        command = cli.get_command(ctx, name)
        assert command is not None
        inner = click.Context(command, info_name=name, parent=ctx)
        usage = " ".join(command.collect_usage_pieces(inner))
        lines += [f'.SS "yardcut {_plain(name)} {_plain(usage)}"', _plain(" ".join((command.help or "").split()))]
        for parameter in command.get_params(inner):
            record = parameter.get_help_record(inner)
            if record is not None and isinstance(parameter, click.Option) and "--help" not in parameter.opts:
                lines += [".TP", f"\\fB{_plain(record[0])}\\fR", _plain(record[1])]
    lines.append(".SH EXIT STATUS")
    for code, said in _EXIT_CODES:
        lines += [".TP", f"\\fB{code}\\fR", _plain(said)]
    lines.append(".SH ENVIRONMENT")
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
    return {PAGE: manual_page(), **made}


def main() -> None:
    """Write them all below a folder."""
    folder = Path(sys.argv[1])
    for path, text in shared_files().items():
        (folder / path).parent.mkdir(parents=True, exist_ok=True)
        (folder / path).write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
