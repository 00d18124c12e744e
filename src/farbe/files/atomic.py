"""Files that appear under their name only when they are whole."""

from __future__ import annotations

import errno
import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from farbe.model.base import BadInput


@contextmanager
def whole_file(path: Path) -> Iterator[BinaryIO]:
    """A file open for writing that gets its name at the end, or is gone after an error.

    Raises
    ------
    BadInput
        If the folder is missing or read-only, or the disk is full.
    """
    try:
        handle, name = tempfile.mkstemp(
            prefix=f".{path.name[:40]}.", suffix=".part", dir=path.parent
        )
    except OSError as error:
        raise writing_failed(path, error) from error
    temporary = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            yield file
            file.flush()
            os.fsync(file.fileno())
        mask = os.umask(0)
        os.umask(mask)
        temporary.chmod(0o666 & ~mask)
        temporary.replace(path)
    except OSError as error:
        raise writing_failed(path, error) from error
    finally:
        temporary.unlink(missing_ok=True)


def writing_failed(path: Path, error: OSError) -> BadInput:
    """What an error of the disk means for the user."""
    if error.errno == errno.ENOSPC:
        return BadInput(f"The disk is full; make room, then write {path.name} again.")
    if error.errno in (errno.EACCES, errno.EPERM, errno.EROFS):
        return BadInput(f"The folder {path.parent} may not be written to; choose another one.")
    if error.errno in (errno.ENOENT, errno.ENOTDIR):
        return BadInput(f"The folder {path.parent} is not there; choose another one.")
    return BadInput(f"{path.name} could not be written ({error.strerror}); try another folder.")


def make_folder(path: Path) -> None:
    """Make a folder and those above it, or raise BadInput."""
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        if error.errno == errno.EEXIST:
            raise BadInput(f"{path} is a file, not a folder; choose another name.") from error
        raise writing_failed(path, error) from error
