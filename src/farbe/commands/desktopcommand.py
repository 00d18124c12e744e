"""Farbe's place on the desktop: menu entry, icons, type of job files, manual, completion."""

import shutil
import subprocess
import sys
from collections.abc import Iterator
from importlib.resources import as_file, files
from pathlib import Path
from typing import Annotated

import typer

from farbe import APP_ID
from farbe.atomic import make_folder, whole_file
from farbe.folders import desktop_share
from farbe.said import say

#: Programs that a desktop keeps its lists with, and the folder that each is told.
_LISTS = (
    ("update-desktop-database", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)
_FIXED = {
    f"{APP_ID}.desktop": "applications",
    f"{APP_ID}.metainfo.xml": "metainfo",
    "farbe-job.xml": "mime/packages",
    "farbe.1": "man/man1",
    "completion/farbe.bash": "bash-completion/completions/farbe",
    "completion/_farbe": "zsh/site-functions",
    "completion/farbe.fish": "fish/vendor_completions.d",
}


def places() -> Iterator[tuple[str, Path]]:
    """Each file of ``data/desktop``, and where below ``share`` it belongs.

    Yields
    ------
    Its name, and a path that is not absolute.
    """
    for name, folder in _FIXED.items():
        place = Path(folder)
        # The bash file is named after the command alone.
        yield name, place if place.name == "farbe" else place / Path(name).name
    for picture in sorted(one.name for one in files("farbe").joinpath("data/desktop").iterdir()):
        stem, dot, kind = picture.rpartition(".")
        if kind == "svg":
            yield picture, Path("icons/hicolor/scalable") / _context(stem) / picture
        elif kind == "png":
            plain, _, size = stem.rpartition("-")
            size_folder = Path(f"icons/hicolor/{size}x{size}")
            yield picture, size_folder / _context(plain) / f"{plain}{dot}png"


def _context(stem: str) -> str:
    return "apps" if stem == APP_ID else "mimetypes"


def install_desktop(
    prefix: Annotated[
        Path | None,
        typer.Option(help=say("Folder above share; without it what is the user's own, ~/.local.")),
    ] = None,
    remove: Annotated[bool, typer.Option(help=say("Take all of it away again."))] = False,
) -> None:
    """Put Farbe into the desktop's menu and give job files their icon; or take that away."""
    share = desktop_share() if prefix is None else prefix.absolute() / "share"
    for name, place in places():
        target = share / place
        if remove:
            target.unlink(missing_ok=True)
            continue
        make_folder(target.parent)
        with as_file(files("farbe") / "data" / "desktop" / name) as source:
            data = source.read_bytes()
        if target.suffix == ".desktop":
            data = _with_command(data.decode("utf-8")).encode("utf-8")
        with whole_file(target) as writing:
            writing.write(data)
    for program, folder in _LISTS:
        if (share / folder).is_dir() and shutil.which(program):
            subprocess.run([program, str(share / folder)], check=False, capture_output=True)
    typer.echo(
        say("Farbe is taken out of {share}.", share=share)
        if remove
        else say("Farbe is in {share}.", share=share)
    )


def _with_command(entry: str) -> str:
    """A desktop entry that starts this Farbe, wherever it is installed."""
    script = Path(sys.executable).with_name("farbe")
    # A word with blanks or signs is put in quotes; those within are told by a backslash.
    quoted = str(script)
    if any(sign in quoted for sign in " \t\"'\\><~|&;$*?#()`"):
        for sign in '\\"`$':
            quoted = quoted.replace(sign, "\\" + sign)
        quoted = f'"{quoted}"'.replace("\\", "\\\\")
    quoted = quoted.replace("%", "%%")
    return entry.replace("Exec=farbe", f"Exec={quoted}") if script.exists() else entry
