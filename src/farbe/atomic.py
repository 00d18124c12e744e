"""Files that appear under their name only when they are whole."""

from __future__ import annotations

import ctypes
import errno
import io
import os
import tempfile
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any, BinaryIO

from farbe.model.base import BadInput
from farbe.said import say


class CannotWrite(BadInput):
    """There is no room, no right, or no folder; nothing is wrong with what is to be written."""


#: Bytes after which the disk is given what was written, so that little is left at the end.
EARLY = 1 << 25
#: Of renameat2(2): names are from the working folder; in place of nothing, and exchange.
_HERE, _NOTHING, _EXCHANGE = -100, 1, 2


def _mask() -> int:
    """The rights that new files lack; asked once, since asking changes it for a moment."""
    mask = os.umask(0)
    os.umask(mask)
    return mask


_MASK = _mask()


class _EarlyFile(io.BufferedWriter):
    """A file that goes to the disk in a thread of its own while more of it is made."""

    def __init__(self, file: io.FileIO) -> None:
        super().__init__(file, 1 << 20)
        self._pool: ThreadPoolExecutor | None = None
        self._going: Future[None] | None = None
        self._since = 0

    def write(self, data: Any) -> int:
        count = super().write(data)
        self._since += count
        if self._since >= EARLY and (self._going is None or self._going.done()):
            self.flush()
            if self._going is not None:
                # What went wrong on the disk is raised here.
                self._going.result()
            self._pool = self._pool or ThreadPoolExecutor(1)
            self._going = self._pool.submit(os.fdatasync, self.fileno())
            self._since = 0
        return count

    def settle(self) -> None:
        """Wait until all of it is on the disk."""
        self.flush()
        if self._going is not None:
            self._going.result()
        os.fsync(self.fileno())

    def close(self) -> None:
        # The thread uses the file's number, which another file may get when it is free.
        if self._pool is not None:
            self._pool.shutdown()
        super().close()


@contextmanager
def whole_file(path: Path) -> Iterator[BinaryIO]:
    """A file open for writing that gets its name at the end, or is gone after an error.

    Parameters
    ----------
    path : the name that it gets at the end

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
        with _EarlyFile(io.FileIO(handle, "w")) as file:
            yield file
            file.settle()
        temporary.chmod(0o666 & ~_MASK)
        temporary.replace(path)
        fsync_folder(path.parent)
    except OSError as error:
        raise writing_failed(path, error) from error
    finally:
        temporary.unlink(missing_ok=True)


def fsync_folder(path: Path) -> None:
    """Have the names in a folder on the disk, where its file system knows of that.

    Parameters
    ----------
    path : of the folder
    """
    handle = os.open(path, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(handle)
    except OSError as error:
        # Some network file systems have no such thing.
        if error.errno not in (errno.EINVAL, errno.ENOTSUP):
            raise
    finally:
        os.close(handle)


def exchange(one: Path, other: Path) -> bool:
    """Give each of two files or folders the other's name, both at once.

    Parameters
    ----------
    one, other : that are there

    Returns
    -------
    Whether the system and its file system can do that; if not, nothing has changed.

    Raises
    ------
    OSError
        If it can, and failed.
    """
    return _renamed(one, other, _EXCHANGE)


def rename_in_place_of_nothing(one: Path, other: Path) -> None:
    """Give a file or folder a name that nothing has.

    Where the system and its file system cannot do both at once, somebody may take the name in
    between.

    Parameters
    ----------
    one : that is there
    other : the name that it is to have

    Raises
    ------
    FileExistsError
        If something has that name.
    OSError
        If it failed otherwise.
    """
    if _renamed(one, other, _NOTHING):
        return
    if other.exists():
        raise FileExistsError(errno.EEXIST, os.strerror(errno.EEXIST), str(other))
    one.rename(other)


def _renamed(one: Path, other: Path, how: int) -> bool:
    renameat2 = getattr(ctypes.CDLL(None, use_errno=True), "renameat2", None)
    if renameat2 is None:
        return False
    if renameat2(_HERE, os.fsencode(one), _HERE, os.fsencode(other), how) == 0:
        return True
    error = ctypes.get_errno()
    if error in (errno.EINVAL, errno.ENOSYS, errno.EXDEV, errno.EBUSY):
        return False
    raise OSError(error, os.strerror(error), str(other))


def writing_failed(path: Path, error: OSError) -> CannotWrite:
    """What an error of the disk means for the user.

    Parameters
    ----------
    path : what was to be written
    error : what the system said
    """
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return CannotWrite(
            say(
                "The disk of {parent} is full; make room, then write {path} again.",
                parent=path.parent,
                path=path.name,
            )
        )
    if error.errno in (errno.EACCES, errno.EPERM, errno.EROFS):
        return CannotWrite(
            say(
                "The folder {parent} may not be written to; choose another one.", parent=path.parent
            )
        )
    if error.errno in (errno.ENOENT, errno.ENOTDIR):
        return CannotWrite(
            say("The folder {parent} is not there; choose another one.", parent=path.parent)
        )
    return CannotWrite(
        say(
            "{path} could not be written ({strerror}); try another folder.",
            path=path.name,
            strerror=error.strerror,
        )
    )


def check_regular(path: Path, what: str) -> None:
    """Refuse what is there and is no plain file: reading a device or a pipe might never end.

    Parameters
    ----------
    path : of the file; one that is not there is for its reader to tell
    what : it should be, as "a job file"

    Raises
    ------
    BadInput
        If it is a folder, a device or a pipe.
    """
    if path.is_dir():
        raise BadInput(say("{path} is a folder; choose {what}.", path=path.name, what=what))
    if path.exists() and not path.is_file():
        raise BadInput(
            say("{path} is a device or a pipe; choose {what}.", path=path.name, what=what)
        )


def make_folder(path: Path) -> None:
    """Make a folder and those above it, or raise BadInput.

    Parameters
    ----------
    path : where it is, or is to be

    Raises
    ------
    BadInput
        With one sentence that says what is wrong.
    """
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        if error.errno == errno.EEXIST:
            raise BadInput(
                say("{path} is a file, not a folder; choose another name.", path=path)
            ) from error
        raise writing_failed(path, error) from error
