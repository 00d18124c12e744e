"""The manual page, from what the commands say of themselves.

``scripts/make_man.py`` writes it beside the other files for the desktop.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import typer
from typer.core import TyperCommand, TyperGroup

from farbe import __version__
from farbe.cli import app

TARGET = Path(__file__).parents[1] / "src" / "farbe" / "data" / "desktop" / "farbe.1"
_HEAD = f""".\\" Made by scripts/make_man.py; change the help of the commands instead.
.TH FARBE 1 "" "Farbe {__version__}" "User commands"
.SH NAME
farbe \\- plates and jigs for specialty printing
.SH SYNOPSIS
.B farbe
[\\fIJOB.farbe\\fR]
.br
.B farbe
\\fICOMMAND\\fR [\\fIARGUMENT\\fR]...
.SH DESCRIPTION
Farbe prepares white, varnish and colour plates, and the jig that pieces are printed in. Without a
command it opens its window, with a job if one is named.
.SH OPTIONS
.TP
.B \\-\\-version
Say which version this is.
.TP
.B \\-\\-help
Say what there is; so does each command.
.SH COMMANDS
"""
_FOOT = """.SH EXIT STATUS
.TP
.B 0
All is well.
.TP
.B 1
A check stops the job.
.TP
.B 2
Something that was given is not right; one sentence says what.
.TP
.B 3
A fault of Farbe's own; a report is kept.
.SH FILES
.TP
.I ~/.config/farbe
Preferences.
.TP
.I ~/.local/share/farbe
Kept jigs, printers, receivers, recipes.
.TP
.I ~/.local/state/farbe
The queue, unsaved work, what the test press remembers, the log.
.SH ENVIRONMENT
FARBE_CONFIG, FARBE_DATA, FARBE_STATE and FARBE_CACHE name other folders in place of these.
"""


def page() -> str:
    """The whole page, in the man macros of roff."""
    group = typer.main.get_command(app)
    return _HEAD + "".join(_commands(group, "farbe")) + _FOOT


def _commands(group: object, path: str) -> Iterator[str]:
    if not isinstance(group, TyperGroup):
        return
    for name, command in sorted(group.commands.items()):
        if command.hidden:
            continue
        whole = f"{path} {name}"
        if isinstance(command, TyperGroup):
            yield from _commands(command, whole)
        elif isinstance(command, TyperCommand):
            yield from _command(command, whole)


def _command(command: TyperCommand, path: str) -> Iterator[str]:
    arguments = [
        p.metavar or (p.name or "").upper()
        for p in command.params
        if p.param_type_name == "argument"
    ]
    yield f".SS {_plain(path)} {_plain(' '.join(arguments))}\n{_plain(command.help or '')}\n"
    for option in command.params:
        if option.param_type_name == "option" and not getattr(option, "hidden", False):
            names = ", ".join((*option.opts, *option.secondary_opts))
            yield f".TP\n.B {_plain(names)}\n{_plain(getattr(option, 'help', '') or '')}\n"


def _plain(words: str) -> str:
    found = " ".join(words.replace("\\", "\\e").replace("-", "\\-").split())
    # A line that begins with one of these would be a request.
    return f"\\&{found}" if found[:1] in (".", "'") else found


if __name__ == "__main__":
    TARGET.write_text(page(), encoding="utf-8")
