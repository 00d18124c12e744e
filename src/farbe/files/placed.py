"""A hand-off that is made beside its place and takes it as a whole."""

from __future__ import annotations

import os
import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from farbe.atomic import exchange, fsync_folder, make_folder, writing_failed
from farbe.files.ticket import FILE_NAME, read_ticket
from farbe.model.base import BadInput

#: What is being made, and after how many seconds it is what a kill left.
PREFIX, LEFT_OVER = ".hand-off-", 3600.0
#: What a hand-off holds besides what its ticket names.
CUT_FILE, EXCHANGE_FILE, PREVIEWS = "guide.svg", "job.xjdf", "previews"
STRIP_FILE = "strip.reference.txt"


@contextmanager
def in_place_of(folder: Path) -> Iterator[Path]:
    """A folder to make a hand-off in, which takes the place of an earlier one at the end.

    Readers see the earlier hand-off or the new one, never files of both. What does not belong to
    the earlier one stays.

    Parameters
    ----------
    folder : where it is to be; it is made if it is not there

    Yields
    ------
    A folder of its own.

    Raises
    ------
    BadInput
        If it cannot be written there.
    """
    make_folder(folder)
    target = folder.resolve()
    scratch = _scratch(target)
    try:
        yield scratch
        for path in scratch.rglob("*"):
            if path.is_file():
                with path.open("rb") as file:
                    os.fsync(file.fileno())
        _put(scratch, target)
    except OSError as error:
        raise writing_failed(folder / FILE_NAME, error) from error
    finally:
        shutil.rmtree(scratch, ignore_errors=True)


def _scratch(target: Path) -> Path:
    """A folder beside the target, or in it where its parent may not be written to."""
    last: OSError | None = None
    for where in (target.parent, target):
        _clear_left_over(where)
        try:
            made = Path(tempfile.mkdtemp(prefix=PREFIX, dir=where))
        except OSError as error:
            last = error
            continue
        made.chmod(target.stat().st_mode & 0o7777)
        return made
    raise writing_failed(target / FILE_NAME, last or OSError())


def _clear_left_over(where: Path) -> None:
    long_ago = time.time() - LEFT_OVER
    for path in where.glob(f"{PREFIX}*"):
        if path.is_dir() and path.stat().st_mtime < long_ago:
            shutil.rmtree(path, ignore_errors=True)


def _put(scratch: Path, target: Path) -> None:
    beside = scratch.parent == target.parent
    if beside:
        for path in _strange(target, scratch):
            _also(path, scratch / path.name)
        fsync_folder(scratch)
        if exchange(scratch, target):
            fsync_folder(target.parent)
            return
    # Without a ticket nothing is printed: it goes first and comes last.
    (target / FILE_NAME).unlink(missing_ok=True)
    for path in sorted(scratch.iterdir(), key=lambda one: one.name == FILE_NAME):
        if (target / path.name).is_dir():
            shutil.rmtree(target / path.name)
        os.replace(path, target / path.name)
    fsync_folder(target)


def _strange(target: Path, scratch: Path) -> list[Path]:
    """What lies in a folder and belongs to no hand-off there, the new one or the earlier."""
    try:
        ticket = read_ticket(target)
        files = {file.name for run in ticket.runs for file in run.files}
    except BadInput:
        # There was none, or one of an earlier Farbe, whose files stay.
        files = set()
    own = files | {FILE_NAME, CUT_FILE, EXCHANGE_FILE, PREVIEWS, STRIP_FILE}
    there = {path.name for path in scratch.iterdir()}
    return [path for path in target.iterdir() if path.name not in own | there]


def _also(path: Path, second: Path) -> None:
    """Give a file, or all of a folder, a second name."""
    if path.is_dir() and not path.is_symlink():
        shutil.copytree(path, second, copy_function=_link, symlinks=True)
    else:
        _link(str(path), str(second))


def _link(source: str, target: str) -> None:
    try:
        os.link(source, target, follow_symlinks=False)
    except OSError:
        shutil.copy2(source, target, follow_symlinks=False)
