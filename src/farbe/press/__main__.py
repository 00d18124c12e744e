"""The press as a process: ``python -m farbe.press --socket PATH --spool DIR``."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from farbe.press.server import Server
from farbe.press.service import Service
from farbe.said import say


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
    # Who starts a press has seen that none answers there.
    path.unlink(missing_ok=True)
    with Server(str(path), Service(spool, asked.pace)) as server:
        server.serve_forever(poll_interval=0.5)
    return 0


if __name__ == "__main__":
    sys.exit(main())
