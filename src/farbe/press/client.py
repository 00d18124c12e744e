"""Talking to a test press."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import shutil
import socket
import stat
import subprocess
import sys
import tempfile
import time
from collections.abc import Generator, Iterator, Sequence
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING, Any

from farbe.atomic import make_folder, writing_failed
from farbe.files.ticket import Ticket, read_ticket
from farbe.model.base import BadInput
from farbe.press.answers import understood
from farbe.said import VARIABLE, language, say

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt

START_SECONDS = 30.0
#: What the press has to say of itself, in its spool.
LOG_NAME = "press.log"


class PressLine:
    """A connection to a press that runs; use it in a ``with`` block.

    Raises
    ------
    BadInput
        If no press answers.
    """

    def __init__(self, spool: Path) -> None:
        self.spool = spool
        self._connect()

    def _connect(self) -> None:
        self._socket = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        try:
            self._socket.connect(str(socket_path(self.spool)))
        except OSError:
            self._socket.close()
            raise BadInput(say("The test press does not answer; start it.")) from None
        self._lines = self._socket.makefile("rw", encoding="utf-8")

    def __enter__(self) -> PressLine:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()

    def close(self) -> None:
        """Hang up; the press goes on."""
        self._socket.close()

    def send(
        self, folder: Path, *, keep_board: bool = False, keep_film: bool = False, token: str = ""
    ) -> dict[str, Any]:
        """Put a hand-off into the spool and have the press take it; its answer.

        Parameters
        ----------
        folder : the hand-off
        keep_board : the board and its guide stay on the bed
        keep_film : the film stays, with both sides as they are, to be turned and printed on
        token : by which the press knows what it printed of it

        Raises
        ------
        BadInput
            If the press does not take it.
        """
        read_ticket(folder)
        spooled = Path(tempfile.mkdtemp(prefix="job-", dir=self.spool))
        shutil.copytree(folder, spooled, copy_function=_link, dirs_exist_ok=True)
        try:
            return self.ask(
                do="take", folder=str(spooled), keep_board=keep_board, keep_film=keep_film,
                token=token,
            )  # fmt: skip
        except BadInput:
            shutil.rmtree(spooled, ignore_errors=True)
            raise

    def steps(self, **request: Any) -> Generator[dict[str, Any], None, None]:
        """Ask, and yield every answer, the last one ``done``.

        Who no longer listens leaves the press to do what it was asked for; the line can be used
        again all the same.

        Raises
        ------
        BadInput
            If the press refuses, with its reason, or is gone.
        """
        answered = False
        try:
            self._lines.write(json.dumps(request) + "\n")
            self._lines.flush()
            for line in self._lines:
                answer = understood(line, str(request.get("do", "")))
                answered = answer["status"] in ("refused", "done")
                if answer["status"] == "refused":
                    raise BadInput(say("The press refuses: {answer}", answer=answer["why"]))
                yield answer
                if answered:
                    return
        except OSError:
            answered = True
        finally:
            if not answered:
                # Answers that are still to come belong to nobody.
                self._socket.close()
                with contextlib.suppress(BadInput):
                    self._connect()
        raise BadInput(say("The test press stopped in the middle; nothing is lost, print again."))

    def ask(self, **request: Any) -> dict[str, Any]:
        """Ask, and wait for the last answer.

        Returns
        -------
        The last answer of the press.
        """
        *_, last = self.steps(**request)
        return last


def socket_path(spool: Path) -> Path:
    """Where the press of a spool listens; sockets must have short names.

    Parameters
    ----------
    spool : the press's folder

    Raises
    ------
    CannotWrite
        If its folder cannot be made.
    BadInput
        If others than the user may write there.
    """
    given = os.environ.get("XDG_RUNTIME_DIR", "")
    folder = (
        Path(given) / "farbe" if given else Path(tempfile.gettempdir()) / f"farbe-{os.getuid()}"
    )
    try:
        folder.mkdir(mode=0o700, exist_ok=True)
        found = folder.lstat()
    except OSError as error:
        raise writing_failed(folder / "press.sock", error) from error
    # Whoever else may write there could answer in the press's place.
    if not stat.S_ISDIR(found.st_mode) or found.st_uid != os.getuid() or found.st_mode & 0o077:
        raise BadInput(
            say(
                "The folder {folder} is not yours alone; remove it, so that the press can be "
                "found there safely.",
                folder=folder,
            )
        )
    name = hashlib.sha256(str(spool.absolute()).encode()).hexdigest()[:16]
    return folder / f"{name}.sock"


def start_press(spool: Path, *, pace: float = 0.0, lasting: bool = True) -> subprocess.Popen[bytes]:
    """Start the press of a spool and wait until it answers.

    A ``lasting`` one outlives the program that started it.

    Parameters
    ----------
    spool : the press's folder
    pace : share of real time that printing takes; 0 is at once
    lasting : it stays when whoever started it ends

    Returns
    -------
    The running process.

    Raises
    ------
    BadInput
        If it does not start.
    """
    make_folder(spool)
    try:
        log = (spool / LOG_NAME).open("ab")
    except OSError as error:
        raise writing_failed(spool / LOG_NAME, error) from error
    # It must not hold on to what the program that starts it writes to.
    with log:
        process = subprocess.Popen(
            [sys.executable, "-m", "farbe.press", "--socket", str(socket_path(spool)),
             "--spool", str(spool), "--pace", str(pace)],
            start_new_session=lasting, stdin=subprocess.DEVNULL, stdout=log, stderr=log,
            env=os.environ | {VARIABLE: language()},
        )  # fmt: skip
    until = time.monotonic() + START_SECONDS
    while True:
        try:
            _answering(spool).close()
            return process
        except BadInput:
            # One that ended well found another one, which is about to answer.
            if process.poll() or time.monotonic() > until:
                process.kill()
                process.wait()
                raise BadInput(say("The test press does not start; try again.")) from None
            time.sleep(0.02)


def press_of(spool: Path, *, pace: float = 0.0) -> PressLine:
    """A connection to the press of a spool; it is started if it does not run.

    Parameters
    ----------
    spool : the press's folder
    pace : share of real time that printing takes; 0 is at once
    """
    try:
        return _answering(spool)
    except BadInput:
        start_press(spool, pace=pace)
        return PressLine(spool)


def _answering(spool: Path) -> PressLine:
    """A connection to a press that answers; one that just ends takes calls a moment longer."""
    line = PressLine(spool)
    try:
        line.ask(do="status")
    except BadInput:
        line.close()
        raise
    return line


class Press(PressLine):
    """A press of one's own with a spool of its own, ended with its ``with`` block.

    Raises
    ------
    BadInput
        If the press does not start.
    """

    def __init__(self) -> None:
        folder = Path(tempfile.mkdtemp(prefix="farbe-press-"))
        try:
            self._process = start_press(folder, lasting=False)
            super().__init__(folder)
        except BadInput:
            shutil.rmtree(folder, ignore_errors=True)
            raise

    def __enter__(self) -> Press:
        return self

    def close(self) -> None:
        """End the press."""
        super().close()
        self._process.terminate()
        self._process.wait()
        socket_path(self.spool).unlink(missing_ok=True)
        shutil.rmtree(self.spool, ignore_errors=True)


def _link(source: str, target: str) -> None:
    """A second name for the file where that can be, or else a copy."""
    try:
        os.link(source, target)
    except OSError:
        shutil.copyfile(source, target)


def _print_each(press: PressLine, ticket: Ticket, what: str) -> Iterator[str]:
    """Every run of a kind."""
    for run in ticket.runs:
        if run.what == what:
            press.ask(do="print", run=run.name)
            yield say("{run} printed", run=run.name)


def print_first_side(press: PressLine, folder: Path) -> None:
    """Print a hand-off up to where its pieces would be turned over; a chart has no guide.

    Parameters
    ----------
    press : on the line
    folder : the hand-off

    Raises
    ------
    BadInput
        If the press does not print it.
    """
    press.send(folder)
    ticket = read_ticket(folder)
    if any(run.what == "guide" for run in ticket.runs):
        press.ask(do="print", run="guide")
    if ticket.medium == "bed":
        press.ask(do="place")
    press.ask(do="height", mm=ticket.height)
    for _ in _print_each(press, ticket, "artwork"):
        pass


def read_of_press(
    press: PressLine,
    spots: Sequence[tuple[float, float]],
    reader: str,
    *,
    lit: bool,
    number: int = 0,
) -> npt.NDArray[np.float64]:
    """What a measuring device reads of a piece on the press.

    Parameters
    ----------
    press : on the line
    spots : x from the left and y from the top, mm, as its reader sees it
    reader : from which side it is read: face, through or transfer
    lit : by light from behind
    number : of the piece, from 0; -1 for places of the whole bed

    Returns
    -------
    XYZ under D50, float64 (n, 3), Y of white 1.
    """
    by_day = {"face": "piece", "through": "turned", "transfer": "pressed"}[reader]
    by_lamp = "lit" if reader == "face" else "lit turned"
    rounded = [(round(x, 2), round(y, 2)) for x, y in spots]
    answer = press.ask(do="measure", of=by_lamp if lit else by_day, spots=rounded, number=number)
    import numpy as np

    return np.array(answer["xyz"], np.float64)


def read_strip(
    press: PressLine,
    ticket: Ticket,
    spots: Sequence[tuple[float, float]],
    reader: str,
    *,
    lit: bool,
) -> npt.NDArray[np.float64]:
    """What a measuring device reads of the first control strip of what was printed.

    Parameters
    ----------
    press : on which it was printed
    ticket : that says where the strip lies
    spots : x from the left and y from the top of the strip, mm, as its reader sees it
    reader : from which side it is read: face, through or transfer
    lit : by light from behind

    Returns
    -------
    XYZ under D50, float64 (n, 3), Y of white 1.

    Raises
    ------
    BadInput
        If it has none.
    """
    if not ticket.strips:
        raise BadInput(say("{job} was printed without a control strip.", job=ticket.job))
    strip = ticket.strips[0]
    left = strip.x if reader == "face" else ticket.bed_width - strip.x - strip.width
    top = ticket.bed_height - strip.y - strip.height
    if strip.upside_down:
        spots = [(strip.width - x, strip.height - y) for x, y in spots]
    return read_of_press(press, [(left + x, top + y) for x, y in spots], reader, lit=lit, number=-1)


def print_hand_off(press: PressLine, folder: Path, picture: Path) -> Iterator[str]:
    """Print a whole hand-off as an operator would: guide, pieces, artwork, picture.

    Yields
    ------
    One line for each step done.

    Parameters
    ----------
    press : on the line
    folder : the hand-off
    picture : file of the bed's picture
    """
    taken = press.send(folder)
    yield say("{job}: {count} pockets", job=taken["job"], count=taken["pockets"])
    ticket = read_ticket(folder)
    if any(run.what == "guide" for run in ticket.runs):
        press.ask(do="print", run="guide")
        yield say("guide printed on the board")
    if ticket.medium == "bed":
        yield say("{count} pieces put in by the guide", count=press.ask(do="place")["pieces"])
    press.ask(do="height", mm=ticket.height)
    yield from _print_each(press, ticket, "artwork")
    if ticket.back is not None:
        press.ask(do="turn")
        yield say("pieces turned over, {turn}", turn=ticket.back.turn)
        if any(run.what == "guide-back" for run in ticket.runs):
            press.ask(do="print", run="guide-back")
            yield say(
                "{count} pieces put in by the other guide", count=press.ask(do="place")["pieces"]
            )
        yield from _print_each(press, ticket, "artwork-back")
    press.ask(do="picture", path=str(picture.absolute()))
    yield say("picture: {picture}", picture=picture)
