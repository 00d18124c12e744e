"""The press listens on a local socket: one line of JSON asks, lines of JSON answer."""

from __future__ import annotations

import json
import math
import socketserver
import threading
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

from farbe.model.base import BadInput
from farbe.press.service import Service, Tell
from farbe.said import say

#: Seconds of silence before it goes off, and bytes of a request.
IDLE, MOST_BYTES = 8 * 3600.0, 1 << 17


class _Line(socketserver.StreamRequestHandler):
    """One connection."""

    server: Server

    def handle(self) -> None:
        def tell(**answer: Any) -> None:
            # Who asked may be gone; what was begun is done all the same, as a printer would.
            with suppress(BrokenPipeError, ConnectionResetError):
                self.wfile.write((json.dumps(answer) + "\n").encode("utf-8"))

        with suppress(ConnectionResetError):
            while line := self.rfile.readline(MOST_BYTES):
                if not line.endswith(b"\n"):
                    tell(status="refused", why=say("The request is too long to be one."))
                    return
                if not self._one(line, tell):
                    return

    def _one(self, line: bytes, tell: Tell) -> bool:
        try:
            request = json.loads(line)
            if any(isinstance(v, float) and not math.isfinite(v) for v in request.values()):
                raise ValueError("a figure is none")
            if request.get("do") == "quit":
                # Whoever is told that it is done may start another press in its place; and the
                # process may be gone as soon as it leaves, so the answer comes before.
                self.server.hide()
                tell(status="done")
                self.server.leave()
                return False
            tell(status="done", **self.server.service.answer(request, tell))
        except BadInput as refusal:
            tell(status="refused", why=str(refusal))
        except (ValueError, KeyError, AttributeError, TypeError) as error:
            tell(status="refused", why=say("The request cannot be read: {error}.", error=error))
        return True


class Server(socketserver.ThreadingMixIn, socketserver.UnixStreamServer):
    """Listens until it is asked to quit, or nobody has asked anything for very long."""

    daemon_threads = True

    def __init__(self, path: str, service: Service) -> None:
        super().__init__(path, _Line)
        self.service = service

    def hide(self) -> None:
        """Be found no more; another press may take the place at once."""
        Path(str(self.server_address)).unlink(missing_ok=True)

    def leave(self) -> None:
        """End; what was answered before has gone out."""
        threading.Thread(target=self.shutdown).start()

    def service_actions(self) -> None:
        """Called twice a second."""
        if time.monotonic() - self.service.last_asked > IDLE:
            self.hide()
            self.leave()
