"""The press as a process: ``python -m farbe.press --socket PATH --spool DIR``."""

from __future__ import annotations

import argparse
import sys
import time
from contextlib import suppress
from pathlib import Path

from farbe.model.base import BadInput
from farbe.owners import Owner, owner_of
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
    owner = _owner_of(spool)
    if owner is None:
        return 0
    # Nobody else prints from this spool, so what lies there is left of one that was killed.
    path.unlink(missing_ok=True)
    with Server(str(path), Service(spool, asked.pace)) as server:
        server.serve_forever(poll_interval=0.5)
    owner.let_go()
    return 0


def _owner_of(spool: Path) -> Owner | None:
    """Have the spool to itself; None if another press answers for it.

    Two programs may start a press at the same time, and one that ends holds its spool a moment
    longer than it answers.
    """
    while (owner := owner_of(spool / LOCK)) is None:
        with suppress(BadInput):
            PressLine(spool).close()
            return None
        time.sleep(0.02)
    return owner


if __name__ == "__main__":
    sys.exit(main())
