"""Rows of a large PNG, decoded by a process of their own that sees the file and nothing else.

``python -m farbe.art.rowsapart PATH HEIGHT WIDTH CHANNELS`` writes blocks of rows to its standard
output, one after the other, as fast as they are taken.
"""

from __future__ import annotations

import math
import os
import resource
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from farbe.art.confine import SMALL, SMALL_SECONDS, Limits, confine
from farbe.art.pngdecode import PNG_DAMAGE, decoded
from farbe.said import say

if TYPE_CHECKING:
    from farbe.art.artwork import Pixels

#: Seconds of one processor that a large file may take, and bytes besides what it has at its start.
SECONDS, MEMORY = 900, 600_000_000
#: Bytes that lie between both processes.
HELD = 1 << 21


def blocks_apart(path: Path, shape: tuple[int, int, int], block: int) -> Iterator[Pixels]:
    """Blocks of rows, top to bottom, as the other process decodes them.

    Parameters
    ----------
    path : a plain PNG
    shape : its height, width and channels
    block : rows of each block; the last may have less

    Yields
    ------
    uint8 (rows, width, channels)

    Raises
    ------
    ValueError
        If the file is damaged, or the process ended before its end.
    """
    height, width, channels = shape
    command = [sys.executable, "-m", "farbe.art.rowsapart", str(path.resolve()), *map(str, shape)]
    ours, its = socket.socketpair()
    with ours, its:
        its.setsockopt(socket.SOL_SOCKET, socket.SO_SNDBUF, HELD)
        process = subprocess.Popen(
            command, stdin=subprocess.DEVNULL, stdout=its.fileno(), stderr=subprocess.PIPE
        )
        its.close()
        try:
            for top in range(0, height, block):
                rows = np.empty((min(block, height - top), width, channels), np.uint8)
                # All at once: each return to Python would wait for the threads that are busy there.
                got = ours.recv_into(rows.data.cast("B"), rows.nbytes, socket.MSG_WAITALL)
                if got < rows.nbytes:
                    raise ValueError(_said(process))
                yield rows
        finally:
            process.kill()
            process.wait()
            if process.stderr is not None:
                process.stderr.close()


def _said(process: subprocess.Popen[bytes]) -> str:
    """Why the other process ended before its end."""
    said = b"" if process.stderr is None else process.stderr.read()
    words = said.decode("utf-8", "replace").strip()
    if process.wait() == -signal.SIGXCPU:
        return say("it takes too long to read")
    return words.splitlines()[-1] if words else say("its pixels end too soon")


def main() -> int:
    """Decode the file that is named, within limits.

    Returns
    -------
    The status with which the process ends; 0 where all rows were sent.
    """
    path, shape = Path(sys.argv[1]), tuple(map(int, sys.argv[2:5]))
    # A small file that holds very much is made to take long.
    seconds = math.ceil(SMALL_SECONDS) if path.stat().st_size <= SMALL else SECONDS
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 1))
    confine(Limits(float(seconds), MEMORY), [path], None)
    out = 1
    try:
        for block in decoded(path, (shape[0], shape[1], shape[2])):
            view = block.data.cast("B")
            while view:
                view = view[os.write(out, view) :]
    except BrokenPipeError:
        return 0
    except PNG_DAMAGE as error:
        print(error, file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
