"""Rows of a large PNG, decoded by a process of their own that sees the file and nothing else.

Both share a piece of memory with room for some blocks of rows. The other process is told over a
socket which rooms are free, a byte for each, and says which ones it has filled, in their order.
Whatever looks at a block keeps its room; it is free again once nobody does.
"""

from __future__ import annotations

import atexit
import contextlib
import fcntl
import json
import math
import mmap
import os
import resource
import signal
import socket
import subprocess
import sys
import weakref
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from farbe.art.confine import SMALL, SMALL_SECONDS, Limits, confine
from farbe.art.pnghead import BLOCK
from farbe.memory import keep_freed
from farbe.said import say

# The process that asks is to start the other one before it loads what is slow to load.
if TYPE_CHECKING:
    from farbe.art.artwork import Pixels

#: Seconds of one processor that a large file may take, and bytes besides what it has at its start.
SECONDS, MEMORY = 900, 600_000_000
#: Blocks that there is room for: those that stay for a while, and some that are worked on.
ROOMS = 20


def _shared(size: int) -> tuple[int, mmap.mmap]:
    """A handle of memory for both, of so many bytes, which neither can change, and that memory."""
    memory = os.memfd_create("farbe-rows", os.MFD_CLOEXEC | os.MFD_ALLOW_SEALING)
    with contextlib.ExitStack() as failing:
        failing.callback(os.close, memory)
        os.ftruncate(memory, size)
        seals = fcntl.F_SEAL_SHRINK | fcntl.F_SEAL_GROW | fcntl.F_SEAL_SEAL
        fcntl.fcntl(memory, fcntl.F_ADD_SEALS, seals)
        shared = mmap.mmap(memory, size)
        failing.pop_all()
    return memory, shared


class _Decoder:
    """The other process, which decodes one file."""

    def __init__(self, path: Path, shape: tuple[int, int, int]) -> None:
        self.path, self.shape = path.resolve(), shape
        #: Bytes that one block takes.
        self.room = min(BLOCK, shape[0]) * shape[1] * shape[2]
        self.memory, self.shared = _shared(ROOMS * self.room)
        self.line, its = socket.socketpair()
        with its:
            self.process = subprocess.Popen(
                [sys.executable, "-m", "farbe.art.rowsapart", str(self.memory)],
                stdin=its.fileno(), stdout=subprocess.DEVNULL, stderr=subprocess.PIPE,
                pass_fds=[self.memory],
            )  # fmt: skip
        asked = json.dumps({"path": str(self.path), "shape": shape})
        self.line.sendall(asked.encode() + b"\n" + bytes(range(ROOMS)))

    def said(self) -> str:
        """Why it ended before its end."""
        said = b"" if self.process.stderr is None else self.process.stderr.read()
        words = said.decode("utf-8", "replace").strip()
        if self.process.wait() == -signal.SIGXCPU:
            return say("it takes too long to read")
        return words.splitlines()[-1] if words else say("its pixels end too soon")

    def end(self) -> None:
        """End it; what it decoded stays for those who look at it."""
        self.process.kill()
        self.process.wait()
        if self.process.stderr is not None:
            self.process.stderr.close()
        self.line.close()
        os.close(self.memory)


#: One that has begun with what is going to be asked for, with the process that started it, of
#: which a fork is none.
_begun: list[tuple[int, _Decoder]] = []


def begin(path: Path, shape: tuple[int, int, int]) -> None:
    """Have a picture decoded that is going to be asked for, as far as there is room.

    Parameters
    ----------
    path : a plain PNG
    shape : its height, width and channels, as its first bytes have it, which nothing has proved
    """
    # A picture of no size that can be is refused by what looks at it.
    with contextlib.suppress(OSError):
        if not _begun:
            _begun.append((os.getpid(), _Decoder(path, shape)))


def _decoder(path: Path, shape: tuple[int, int, int]) -> _Decoder:
    """One that decodes this picture from its top."""
    with contextlib.suppress(IndexError):
        owner, decoder = _begun.pop()
        if owner == os.getpid():
            if (decoder.path, decoder.shape) == (path.resolve(), shape):
                return decoder
            decoder.end()
    return _Decoder(path, shape)


@atexit.register
def _end_begun() -> None:
    while _begun:
        owner, decoder = _begun.pop()
        if owner == os.getpid():
            decoder.end()


def blocks_apart(path: Path, shape: tuple[int, int, int]) -> Iterator[Pixels]:
    """Blocks of rows, top to bottom, as the other process decodes them.

    Parameters
    ----------
    path : a plain PNG
    shape : its height, width and channels

    Yields
    ------
    uint8 (rows, width, channels), as :func:`farbe.art.pngdecode.decoded` does

    Raises
    ------
    ValueError
        If the file is damaged, or the process ended before its end.
    """
    import numpy as np

    height, width, channels = shape
    decoder = _decoder(path, shape)
    try:
        lent: set[int] = set()
        for top in range(0, height, BLOCK):
            filled = decoder.line.recv(1)
            if not filled:
                raise ValueError(decoder.said())
            size = (min(BLOCK, height - top), width, channels)
            at = filled[0] * decoder.room
            flat = np.frombuffer(decoder.shared, np.uint8, math.prod(size), at)
            if len(lent) == ROOMS - 1:
                # All others are looked at: this one is copied, so that one goes round.
                flat = flat.copy()
                _give_back(decoder.line, lent, filled[0])
            else:
                # All views of the rows are views of this, and keep it.
                lent.add(filled[0])
                weakref.finalize(flat, _give_back, decoder.line, lent, filled[0]).atexit = False
            rows = flat.reshape(size)
            del flat
            yield rows
            del rows
    except (BrokenPipeError, ConnectionResetError) as error:
        raise ValueError(decoder.said()) from error
    finally:
        decoder.end()


def _give_back(line: socket.socket, lent: set[int], room: int) -> None:
    """A room is free, unless all is over."""
    lent.discard(room)
    with contextlib.suppress(OSError):
        line.send(bytes([room]))


def main() -> int:
    """Decode the file that is named, within limits.

    Returns
    -------
    The status with which the process ends; 0 where all rows were decoded.
    """
    # What decodes is slow to load: it is there before the file is named.
    import numpy as np

    from farbe.art.pngdecode import PNG_DAMAGE, decoded

    keep_freed()
    with socket.socket(fileno=os.dup(0)) as line:
        asked = _line(line)
        if not asked:
            return 0
        wanted = json.loads(asked)
        path, (height, width, channels) = Path(wanted["path"]), wanted["shape"]
        room = min(BLOCK, height) * width * channels
        shared = mmap.mmap(int(sys.argv[1]), ROOMS * room)
        # A small file that holds very much is made to take long.
        seconds = math.ceil(SMALL_SECONDS) if path.stat().st_size <= SMALL else SECONDS
        resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 1))
        confine(Limits(float(seconds), MEMORY), [path], None)
        rooms: list[int] = []

        def free(rows: int) -> Pixels:
            """The next room that nobody looks at, for so many rows."""
            if not (told := line.recv(1)):
                raise BrokenPipeError
            rooms.extend(told)
            size = (rows, width, channels)
            return np.frombuffer(shared, np.uint8, math.prod(size), rooms[-1] * room).reshape(size)

        try:
            for _ in decoded(path, (height, width, channels), free):
                line.sendall(bytes([rooms.pop()]))
        except (BrokenPipeError, ConnectionResetError):
            # Nobody wants the rest.
            return 0
        except PNG_DAMAGE as error:
            print(error, file=sys.stderr)
            return 1
    return 0


def _line(line: socket.socket) -> bytes:
    """What is asked, up to the end of the line; nothing if nobody asks any more."""
    asked = bytearray()
    while (byte := line.recv(1)) != b"\n":
        if not byte:
            return b""
        asked += byte
    return bytes(asked)


if __name__ == "__main__":
    sys.exit(main())
