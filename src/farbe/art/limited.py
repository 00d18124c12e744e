"""Files of strangers, read by a process of their own with limits on what it does."""

from __future__ import annotations

import atexit
import json
import os
import subprocess
import sys
import threading
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from farbe.art.confine import SMALL, SMALL_SECONDS
from farbe.art.helper import ANSWER, DIED, DONE, TOO_LONG
from farbe.model.base import BadInput
from farbe.said import VARIABLE, language, say

#: Bytes that the reading of a small file may take, and of a large one.
SMALL_MEMORY = 800_000_000
LARGE_MEMORY = 6_000_000_000


class _Helper:
    """A helper process, asked for one thing after the other."""

    def __init__(self) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "farbe.art.helper"],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
            # One reading keeps one processor busy; a fork has no other threads anyway.
            env=os.environ
            | {"OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1", VARIABLE: language()},
        )  # fmt: skip

    def ask(self, request: dict[str, Any]) -> str:
        """What became of a reading; it died if the helper did.

        Returns
        -------
        JSON text: the answer of the reader, or why there is none.
        """
        asked, said = self._process.stdin, self._process.stdout
        if asked is None or said is None:
            return DIED
        try:
            asked.write((json.dumps(request) + "\n").encode("ascii"))
            asked.flush()
            line = said.readline()
        except OSError:
            return DIED
        return str(json.loads(line)["status"]) if line else DIED

    @property
    def lives(self) -> bool:
        return self._process.poll() is None

    def end(self) -> None:
        """It reads nothing now, and has nothing to clear up."""
        for pipe in (self._process.stdin, self._process.stdout):
            if pipe is not None:
                pipe.close()
        self._process.kill()
        self._process.wait()


class Helpers:
    """Helpers that wait to be asked: as many as were ever asked at once."""

    def __init__(self) -> None:
        self._free: list[_Helper] = []
        self._lock = threading.Lock()
        self._owner = os.getpid()

    def _own(self) -> None:
        """A fork of the process that has helpers leaves them to it, and starts its own."""
        if os.getpid() != self._owner:
            self._free, self._owner = [], os.getpid()

    def warm_up(self) -> None:
        """Have one ready by the time it is asked."""
        with self._lock:
            self._own()
            if not self._free:
                self._free.append(_Helper())

    def ask(self, request: dict[str, Any]) -> str:
        """Have a free helper read something; what became of that.

        Parameters
        ----------
        request : what is to be read, and how far
        """
        helper = self._taken()
        try:
            return helper.ask(request)
        finally:
            with self._lock:
                if helper.lives:
                    self._free.append(helper)

    def _taken(self) -> _Helper:
        with self._lock:
            self._own()
            while self._free:
                helper = self._free.pop()
                if helper.lives:
                    return helper
        return _Helper()

    def end(self) -> None:
        """End them all."""
        with self._lock:
            self._own()
            free, self._free = self._free, []
        for helper in free:
            helper.end()


HELPERS = Helpers()
atexit.register(HELPERS.end)


def ask(
    reader: str,
    path: Path,
    folder: Path,
    seconds: float,
    *words: str,
    reads: Sequence[Path] = (),
) -> dict[str, Any]:
    """Have a reader read a file and write what it finds into a folder.

    A small file may take 10 s and 800 MB, whatever the reader is granted for larger ones.

    Parameters
    ----------
    reader : a module with a function ``answer_to(path, folder, *words)``
    path : the file, the only one that it sees
    folder : where it may write
    seconds : that it may take
    words : for the reader
    reads : other files that it sees

    Returns
    -------
    Its answer, as JSON.

    Raises
    ------
    BadInput
        If it takes too long or too much memory, dies, or refuses the file.
    """
    small = is_small(path)
    request = {
        "reader": reader, "path": str(path.resolve()), "folder": str(folder.resolve()),
        "words": list(words), "reads": [str(one) for one in reads],
        "seconds": min(seconds, SMALL_SECONDS) if small else seconds,
        "memory": SMALL_MEMORY if small else LARGE_MEMORY,
    }  # fmt: skip
    status = HELPERS.ask(request)
    if status == TOO_LONG:
        raise BadInput(
            say("{path} takes too long to read; simplify it, and export it again.", path=path.name)
        )
    try:
        if status != DONE:
            raise ValueError("it died")
        found: dict[str, Any] = json.loads((folder / ANSWER).read_bytes())
    except (OSError, ValueError):
        raise BadInput(
            say("{path} is damaged or too large; export it again.", path=path.name)
        ) from None
    if "refused" in found:
        raise BadInput(found["refused"])
    return found


def is_small(path: Path) -> bool:
    """Whether a file is read within the limits of small ones.

    Parameters
    ----------
    path : the file

    Raises
    ------
    BadInput
        If it cannot be looked at.
    """
    try:
        found = path.stat()
    except OSError as error:
        raise BadInput(
            say("{path} cannot be read ({strerror}).", path=path.name, strerror=error.strerror)
        ) from error
    return found.st_size <= SMALL
