"""The press as a process: ``python -m farbe.press --socket PATH --spool DIR``."""

from __future__ import annotations

import argparse
import fcntl
import sys
import time
from contextlib import suppress
from pathlib import Path
from typing import TextIO

from farbe.model.base import BadInput
from farbe.press.client import PressLine
from farbe.press.server import Server
from farbe.press.service import Service
from farbe.said import say

#: Held by the press of a spool as long as it runs, in the spool.
LOCK = "press.lock"


def main() -> int:
    parser = argparse.ArgumentParser(prog="farbe.press", description=say("Farbe's test press"))
    parser.add_argument("--socket", required=True, help=say("path of the local socket"))
    parser.add_argument("--spool", required=True, help=say("folder of hand-offs and of its state"))
    parser.add_argument(
        "--pace", type=float, default=0.0, help=say("times faster than a real press")
    )
    asked = parser.parse_args()
    spool = Path(asked.spool)
    spool.mkdir(parents=True, exist_ok=True)
    path = Path(asked.socket)
    with (spool / LOCK).open("w", encoding="utf-8") as lock:
        if not _is_ours(lock, spool):
            return 0
        # Nobody else prints from this spool, so what lies there is left of one that was killed.
        path.unlink(missing_ok=True)
        with Server(str(path), Service(spool, asked.pace)) as server:
            server.serve_forever(poll_interval=0.5)
    return 0


def _is_ours(lock: TextIO, spool: Path) -> bool:
    """Whether this press has the spool to itself; not if another one answers for it.

    Two programs may start a press at the same time, and one that ends holds its spool a moment
    longer than it answers.
    """
    while True:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            with suppress(BadInput):
                PressLine(spool).close()
                return False
            time.sleep(0.02)
        else:
            return True


if __name__ == "__main__":
    sys.exit(main())
