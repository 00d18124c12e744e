"""The press as a process: ``python -m farbe.press --socket PATH``.

It listens on a local socket. One line of JSON asks for something, lines of JSON answer: any
number with ``"status": "printing"``, then one with ``"status"`` ``done`` or ``refused``.
"""

from __future__ import annotations

import argparse
import json
import socket
import sys
from pathlib import Path
from typing import IO, Any

from farbe.model.base import BadInput
from farbe.press.machine import TestPress


def _serve(connection: IO[str], press: TestPress) -> bool:
    """Answer requests until the other side is gone; False when asked to quit."""

    def say(**answer: Any) -> None:
        connection.write(json.dumps(answer) + "\n")
        connection.flush()

    for line in connection:
        try:
            request = json.loads(line)
            if request.get("do") == "quit":
                say(status="done")
                return False
            say(status="done", **_do(request, press, say))
        except BadInput as refusal:
            say(status="refused", why=str(refusal))
        except (ValueError, KeyError, AttributeError) as error:
            say(status="refused", why=f"The request cannot be read: {error}.")
    return True


def _do(request: dict[str, Any], press: TestPress, say: Any) -> dict[str, Any]:
    match request["do"]:
        case "take":
            ticket = press.take(
                Path(request["folder"]), keep_board=bool(request.get("keep_board", False))
            )
            return {"job": ticket.job, "pockets": len(ticket.pockets)}
        case "print":
            shown: dict[str, int] = {}

            def report(layer: str, share: float) -> None:
                percent = int(share * 20)
                if shown.get(layer) != percent:
                    shown[layer] = percent
                    say(status="printing", layer=layer, done=share)

            press.print_run(request["run"], report)
            return {}
        case "place":
            return {"pieces": press.place(), "at": press.bed.pieces}
        case "turn":
            press.turn_over()
            return {}
        case "picture":
            press.save_picture(Path(request["path"]))
            return {"path": request["path"]}
        case other:
            raise BadInput(f"The press does not know how to {other}.")


def main() -> int:
    parser = argparse.ArgumentParser(prog="farbe.press", description="Farbe's test press")
    parser.add_argument("--socket", required=True, help="path of the local socket")
    path = parser.parse_args().socket
    press = TestPress()
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as listener:
        listener.bind(path)
        listener.listen(1)
        going = True
        while going:
            peer, _ = listener.accept()
            with peer, peer.makefile("rw", encoding="utf-8") as connection:
                try:
                    going = _serve(connection, press)
                except (BrokenPipeError, ConnectionResetError):
                    continue  # The other side went away in the middle; wait for the next.
    return 0


if __name__ == "__main__":
    sys.exit(main())
