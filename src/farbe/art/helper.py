"""The warm process that reads strangers' files: it forks for each, and ends what takes too long.

It is asked over its standard input, a line of JSON for each file, and answers a line for each. It
has loaded the reader that is asked for, so that a fork of it begins at once.
"""

from __future__ import annotations

import contextlib
import gc
import importlib
import json
import os
import select
import signal
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from farbe.art.confine import Limits, confine
from farbe.art.patience import is_over, now
from farbe.model.base import BadInput
from farbe.said import language, say

#: Readers, those that are asked for most often first; each has a function ``answer_to``.
READERS = ("farbe.art.pictureparse", "farbe.art.drawparse", "farbe.files.outlineparse")
ANSWER = "answer.json"
#: Seconds without a question after which nobody is about to ask.
QUIET = 0.5
#: Seconds between two looks at whether a reading has ended, and whether it takes too long.
LOOK, LOOK_AT_TIME = 0.002, 0.1
_MOST_HANDLES = 256
#: Statuses that are answered.
DONE, TOO_LONG, DIED = "done", "too long", "died"


def main() -> int:
    """Answer until nobody asks any more.

    Returns
    -------
    The status with which the process ends: 0.
    """
    waiting = list(READERS)
    # Nobody else is to read what is asked, nor to answer.
    asked, said = os.dup(0), os.dup(1)
    os.dup2(2, 1)
    with os.fdopen(asked, "rb", buffering=0) as lines:
        while True:
            # What most readings need is loaded at once, the rest while nobody asks.
            quiet = 0.0 if READERS[0] in waiting else QUIET
            if waiting and not select.select([lines], [], [], quiet)[0]:
                _load(waiting.pop(0))
                continue
            line = lines.readline()
            if not line:
                return 0
            request = json.loads(line)
            if request["reader"] in waiting:
                waiting.remove(request["reader"])
                _load(request["reader"])
            status = _serve(request)
            os.write(said, (json.dumps({"status": status}) + "\n").encode("ascii"))


def _load(reader: str) -> None:
    """Load a reader, with all that it loads when it reads for the first time.

    A fork that had to load it would do so again for each file.
    """
    module = importlib.import_module(reader)
    if hasattr(module, "warm_up"):
        module.warm_up()
    # Words are looked up by all of them.
    language()
    gc.freeze()


def _serve(request: dict[str, Any]) -> str:
    """Fork, and wait for the fork no longer than it may take."""
    child = os.fork()
    if child == 0:
        _child(request)
    begun, seconds = now(), float(request["seconds"])
    late, due = False, begun.clock + seconds
    ends = _end_of(child)
    try:
        while True:
            ended, status = os.waitpid(child, os.WNOHANG)
            if ended:
                _end_all(child)
                return DONE if status == 0 else DIED
            if time.monotonic() > due:
                late, due = is_over(begun, child, seconds), time.monotonic() + LOOK_AT_TIME
            if late or not _is_wanted():
                _end_all(child)
                os.waitpid(child, 0)
                return TOO_LONG
            select.select(ends, [], [], LOOK)
    finally:
        for handle in ends:
            os.close(handle)


def _end_of(child: int) -> list[int]:
    """What can be waited on for the end of a fork.

    Nothing on Linux before 5.3, or by a Python that was built there: it is looked at now and then.
    """
    if not hasattr(os, "pidfd_open"):
        return []
    try:
        return [os.pidfd_open(child)]
    except OSError:
        return []


def _is_wanted() -> bool:
    """Whether whoever asked is still there."""
    return os.getppid() == _PARENT


_PARENT = os.getppid()


def _end_all(child: int) -> None:
    """The fork is the first of its group; whatever it started ends with it."""
    with contextlib.suppress(ProcessLookupError):
        os.killpg(child, signal.SIGKILL)


def _child(request: dict[str, Any]) -> None:
    """Read the file within limits; never returns."""
    status = 1
    try:
        os.setsid()
        # What the helper is asked and answers is not the fork's.
        os.closerange(3, _MOST_HANDLES)
        path, folder = Path(request["path"]), Path(request["folder"])
        os.environ["TMPDIR"] = str(folder)
        read: Callable[..., dict[str, Any]] = importlib.import_module(request["reader"]).answer_to
        reads = [path, *(Path(one) for one in request["reads"])]
        # Words are looked up while their catalogue can still be read.
        language()
        confine(Limits(request["seconds"], int(request["memory"])), reads, folder)
        try:
            found = read(path, folder, *request["words"])
        except BadInput as refusal:
            found = {"refused": str(refusal)}
        except MemoryError:
            found = {
                "refused": say(
                    "{path} takes too much memory to read; export it smaller.", path=path.name
                )
            }
        (folder / ANSWER).write_text(json.dumps(found))
        status = 0
    finally:
        # Nothing of the helper's is to be cleared up by its fork.
        os._exit(status)


if __name__ == "__main__":
    sys.exit(main())
