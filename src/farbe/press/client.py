"""Talking to a test press."""

from __future__ import annotations

import json
import os
import shutil
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from types import TracebackType
from typing import Any

from farbe.files.ticket import Ticket, read_ticket
from farbe.model.base import BadInput

START_SECONDS = 30.0


class Press:
    """A running test press and its spool folder; use it in a ``with`` block.

    Raises
    ------
    BadInput
        If the press does not start.
    """

    def __init__(self) -> None:
        self._folder = Path(tempfile.mkdtemp(prefix="farbe-press-"))
        self._jobs = 0
        path = str(self._folder / "socket")
        self._process = subprocess.Popen([sys.executable, "-m", "farbe.press", "--socket", path])
        self._socket = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        until = time.monotonic() + START_SECONDS
        while True:
            try:
                self._socket.connect(path)
                break
            except (FileNotFoundError, ConnectionRefusedError):
                if self._process.poll() is not None or time.monotonic() > until:
                    self.close()
                    raise BadInput("The test press does not start; try again.") from None
                time.sleep(0.02)
        self._lines = self._socket.makefile("rw", encoding="utf-8")

    def __enter__(self) -> Press:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()

    def close(self) -> None:
        """End the press."""
        self._socket.close()
        self._process.terminate()
        self._process.wait()
        shutil.rmtree(self._folder, ignore_errors=True)

    def send(self, folder: Path, *, keep_board: bool = False) -> dict[str, Any]:
        """Put a hand-off into the spool and have the press take it; its answer.

        With ``keep_board`` the board and its guide stay on the bed.
        """
        read_ticket(folder)
        self._jobs += 1
        spooled = self._folder / f"job-{self._jobs}"
        shutil.copytree(folder, spooled, copy_function=_link)
        return self.ask(do="take", folder=str(spooled), keep_board=keep_board)

    def steps(self, **request: Any) -> Iterator[dict[str, Any]]:
        """Ask, and yield every answer, the last one ``done``.

        Raises
        ------
        BadInput
            If the press refuses, with its reason, or is gone.
        """
        try:
            self._lines.write(json.dumps(request) + "\n")
            self._lines.flush()
            for line in self._lines:
                answer: dict[str, Any] = json.loads(line)
                if answer["status"] == "refused":
                    raise BadInput(f"The press refuses: {answer['why']}")
                yield answer
                if answer["status"] == "done":
                    return
        except (BrokenPipeError, ConnectionResetError):
            pass
        raise BadInput("The test press stopped in the middle; nothing is lost, print again.")

    def ask(self, **request: Any) -> dict[str, Any]:
        """Ask, and wait for the last answer."""
        *_, last = self.steps(**request)
        return last


def _link(source: str, target: str) -> None:
    """A second name for the file where that can be, or else a copy."""
    try:
        os.link(source, target)
    except OSError:
        shutil.copyfile(source, target)


def _print_all(press: Press, ticket: Ticket, what: str) -> Iterator[str]:
    """Every run of a kind."""
    for run in ticket.runs:
        if run.what == what:
            press.ask(do="print", run=run.name)
            yield f"{run.name} printed"


def print_hand_off(folder: Path, picture: Path) -> Iterator[str]:
    """Print a whole hand-off as an operator would: guide, pieces, artwork, picture.

    Yields
    ------
    One line for each step done.
    """
    with Press() as press:
        taken = press.send(folder)
        yield f"{taken['job']}: {taken['pockets']} pockets"
        press.ask(do="print", run="guide")
        yield "guide printed on the board"
        yield f"{press.ask(do='place')['pieces']} pieces put in by the guide"
        ticket = read_ticket(folder)
        yield from _print_all(press, ticket, "artwork")
        if ticket.back is not None:
            press.ask(do="turn")
            yield f"pieces turned over, {ticket.back.turn}"
            if any(run.what == "guide-back" for run in ticket.runs):
                press.ask(do="print", run="guide-back")
                yield f"{press.ask(do='place')['pieces']} pieces put in by the other guide"
            yield from _print_all(press, ticket, "artwork-back")
        press.ask(do="picture", path=str(picture.absolute()))
        yield f"picture: {picture}"
