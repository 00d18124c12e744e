"""What the press does when it is asked.

Any number of answers with ``"status": "printing"`` come first, then one with ``"status"``
``done`` or ``refused``. Several may be connected; one prints at a time.
"""

from __future__ import annotations

import shutil
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from farbe.files.ticket import TicketRun, read_ticket
from farbe.model.base import BadInput
from farbe.press.bed import PressBed
from farbe.press.device import APERTURE, read_spots
from farbe.press.machine import TestPress
from farbe.press.memory import Memory
from farbe.press.state import FAULTS, FULL, WARM, PressState
from farbe.press.truth import true_inks
from farbe.said import say

Tell = Callable[..., None]
#: Seconds between two looks at faults while it prints.
TICK = 0.05
#: Seconds after which a spooled hand-off that was not taken is thrown away.
UNTAKEN = 3600.0
#: Places that the device reads at once, and the highest number of a machine.
MOST_SPOTS, MOST_MACHINE = 4000, 10**6


class Service:
    """A press, its state, and what is going on."""

    def __init__(self, spool: Path, pace: float) -> None:
        self.spool, self.press = spool, TestPress()
        self.state = PressState.kept(spool, self.press.capability.inks, pace)
        self.press.inks = true_inks(self.state.machine, self.state.drift)
        self.running: dict[str, Any] | None = None
        self.memory = Memory(spool)
        self._clear()
        self.last_asked = time.monotonic()
        self._stop = threading.Event()
        self._busy = threading.Lock()

    def _clear(self) -> None:
        """Spooled hand-offs that nobody took: who sent them was killed."""
        long_ago = time.time() - UNTAKEN
        for folder in self.spool.glob("job-*"):
            if folder.name not in self.memory.used() and folder.stat().st_mtime < long_ago:
                shutil.rmtree(folder, ignore_errors=True)

    def answer(self, request: dict[str, Any], tell: Tell) -> dict[str, Any]:
        """Do what is asked.

        Parameters
        ----------
        request : the command as ``do``, and its values
        tell : takes what is said on the way

        Returns
        -------
        What the command answers; each says it by itself.

        Raises
        ------
        BadInput
            For what cannot be done now.
        """
        self.last_asked = time.monotonic()
        do = request["do"]
        if do in _ANY_TIME:
            return dict(_ANY_TIME[do](self, request))
        if do not in _ALONE:
            raise BadInput(say("The press does not know how to {do}.", do=str(do)[:20]))
        if not self._busy.acquire(blocking=False):
            raise BadInput(say("The press is busy printing; wait, or stop it."))
        try:
            if do in _ON_THE_BED and self.press.loaded is None and self.memory.current:
                self.memory.bring_back(self.press)
            return dict(_ALONE[do](self, request, tell))
        finally:
            self._busy.release()

    # at any time, also while it prints

    def status(self, _: dict[str, Any]) -> dict[str, Any]:
        """All that the panel shows."""
        state, can, bed = self.state, self.press.capability, self.press.loaded
        why = say("It is printing.") if self.running else state.why_not()
        return {
            "ready": not why,
            "why": why,
            "warming": not self.running and state.warming,
            "bed": [can.bed_width, can.bed_height],
            "head_height": can.head_height,
            "head": state.head,
            "board": state.board,
            "temperature": round(state.temperature, 1),
            "ink_ml": {ink: round(ml, 2) for ink, ml in state.ink_ml.items()},
            "full_ml": FULL,
            "faults": sorted(state.faults),
            "pace": state.pace,
            "prints": state.prints,
            "running": self.running,
            "token": self.memory.token,
            "job": None if bed is None else bed.ticket.job,
            "pieces": 0 if bed is None else len(bed.pieces),
            "complete": sorted(self.memory.complete),
            "by_hand": self.memory.by_hand,
        }

    def fault(self, request: dict[str, Any]) -> dict[str, Any]:
        """Set or clear a fault.

        Parameters
        ----------
        request : ``name`` of the fault; ``on``, true if not given

        Returns
        -------
        Nothing to say: an empty answer.

        Raises
        ------
        BadInput
            For a fault that there is not.
        """
        name = str(request["name"])
        if name not in FAULTS:
            raise BadInput(
                say(
                    "There is no fault {name}; there are: {faults}.",
                    name=name,
                    faults=", ".join(FAULTS),
                )
            )
        (self.state.faults.add if request.get("on", True) else self.state.faults.discard)(name)
        self.state.keep(self.spool)
        return {}

    def fill(self, request: dict[str, Any]) -> dict[str, Any]:
        """Set the level of an ink, or fill all.

        Parameters
        ----------
        request : ``ink``, all if not given; ``ml``, full if not given

        Returns
        -------
        Nothing to say: an empty answer.

        Raises
        ------
        BadInput
            For an ink that the press has not.
        """
        ink, ml = request.get("ink"), float(request.get("ml", FULL))
        names = list(self.state.ink_ml) if ink is None else [str(ink).casefold()]
        for name in names:
            if name not in self.state.ink_ml:
                raise BadInput(say("The press has no ink named {ink}.", ink=ink))
            self.state.ink_ml[name] = min(FULL, max(0.0, ml))
        self.state.keep(self.spool)
        return {}

    def at_pace(self, request: dict[str, Any]) -> dict[str, Any]:
        """Print faster or slower; a press that was warm stays so.

        Parameters
        ----------
        request : as the client sent it
        """
        if self.state.temperature >= WARM:
            self.state.on_since = 0.0
        self.state.pace = max(0.0, float(request["pace"]))
        return {}

    def stop(self, request: dict[str, Any]) -> dict[str, Any]:
        """Stop what prints in the middle; with a token, only if that hand-off is on the bed.

        Parameters
        ----------
        request : as the client sent it

        Returns
        -------
        Nothing to say: an empty answer.
        """
        if request.get("token", self.memory.token) == self.memory.token:
            self._stop.set()
        return {}

    # one at a time

    def load(self, request: dict[str, Any], _: Tell) -> dict[str, Any]:
        """Load a board of a size; without figures, whatever fits.

        Parameters
        ----------
        request : ``width`` and ``height`` in mm

        Returns
        -------
        Nothing to say: an empty answer.

        Raises
        ------
        BadInput
            If the board does not fit.
        """
        size = request.get("width"), request.get("height")
        if None in size:
            self.state.board = None
        else:
            wide, high = (float(str(side)) for side in size)
            can = self.press.capability
            if not (0 < wide <= can.bed_width and 0 < high <= can.bed_height):
                raise BadInput(
                    say(
                        "A board of {wide} × {high} mm does not fit the bed.",
                        wide=f"{wide:g}",
                        high=f"{high:g}",
                    )
                )
            self.state.board = (wide, high)
        return {}

    def take(self, request: dict[str, Any], _: Tell) -> dict[str, Any]:
        """Take a hand-off; one whose token is known comes back with all that was printed.

        Parameters
        ----------
        request : as the client sent it
        """
        folder, token = Path(request["folder"]), str(request.get("token", ""))
        keep_board = bool(request.get("keep_board", False))
        board = read_ticket(folder).board
        self.state.check_board(board.width, board.height)
        keep_film = bool(request.get("keep_film", False))
        if (keep_board or keep_film) and self.press.loaded is None and self.memory.current:
            self.memory.bring_back(self.press)
        ticket = self.press.take(folder, keep_board=keep_board, keep_film=keep_film)
        before, under = self.memory.used(), None
        if keep_board or keep_film:
            under = self.memory.film() if keep_film else self.memory.board()
        self.memory.begin(token, folder, under)
        if self.memory.current["done"]:
            self.memory.bring_back(self.press)
        # What lay on the bed before is read no more, unless something lies on it.
        for name in before - self.memory.used():
            shutil.rmtree(self.spool / name, ignore_errors=True)
        self.state.head = None
        return {
            "job": ticket.job, "pockets": len(ticket.pockets),
            "complete": sorted(self.memory.complete),
        }  # fmt: skip

    def place(self, _: dict[str, Any], __: Tell) -> dict[str, Any]:
        """Put pieces into the pockets; those that lie there stay.

        Returns
        -------
        The pieces and where they lie, in mm on the bed.
        """
        pieces = self.press.place()
        self.memory.add(do="place")
        return {"pieces": pieces, "at": [(p.x, p.y) for p in self.press.bed.pieces]}

    def turn(self, request: dict[str, Any], _: Tell) -> dict[str, Any]:
        """Turn pieces or film over; film may come to lie off by so many mm.

        Parameters
        ----------
        request : as the client sent it

        Returns
        -------
        Nothing to say: an empty answer.
        """
        x, y = float(request.get("x", 0.0)), float(request.get("y", 0.0))
        self.press.slip = x, y
        self.press.turn_over()
        self.memory.add(do="turn", x=x, y=y)
        return {}

    def move(self, request: dict[str, Any], _: Tell) -> dict[str, Any]:
        """Move film by hand, where its line is not found.

        Parameters
        ----------
        request : as the client sent it

        Returns
        -------
        Nothing to say: an empty answer.
        """
        x, y = float(request["x"]), float(request["y"])
        self.press.move_film(x, y)
        self.memory.add(do="move", x=x, y=y)
        return {}

    def height(self, request: dict[str, Any], _: Tell) -> dict[str, Any]:
        """Set the head over pieces of so many mm; without a figure it measures them.

        Parameters
        ----------
        request : ``mm``

        Returns
        -------
        Nothing to say: an empty answer.

        Raises
        ------
        BadInput
            If the head does not go so high.
        """
        wanted = request.get("mm")
        if wanted is not None and float(wanted) > self.press.capability.head_height:
            raise BadInput(
                say(
                    "The head goes no higher than {head_height} mm.",
                    head_height=f"{self.press.capability.head_height:g}",
                )
            )
        self.state.head = None if wanted is None else float(wanted)
        return {}

    def become(self, request: dict[str, Any], _: Tell) -> dict[str, Any]:
        """Be another machine, with inks of its own, or one that has drifted.

        Parameters
        ----------
        request : ``machine``, a number; ``drift``, 0 to 1, 0 if not given

        Returns
        -------
        Nothing to say: an empty answer.

        Raises
        ------
        BadInput
            For a machine or a drift that there is not.
        """
        machine, drift = int(request["machine"]), float(request.get("drift", 0.0))
        if not (0 <= machine <= MOST_MACHINE and 0.0 <= drift <= 1.0):
            raise BadInput(
                say("A machine is a number from 0 to {most}, its drift from 0 to 1.",
                    most=MOST_MACHINE)
            )  # fmt: skip
        self.state.machine, self.state.drift = machine, drift
        self.press.inks = true_inks(machine, drift)
        self.state.keep(self.spool)
        return {}

    def measure(self, request: dict[str, Any], _: Tell) -> dict[str, Any]:
        """What a measuring device reads of a finished piece.

        Parameters
        ----------
        request : ``spots``, x from the left and y from the top in mm as it is seen; ``of``, the
            picture that shows it; ``number`` of the piece

        Returns
        -------
        ``xyz`` of each under D50, Y of white 1.

        Raises
        ------
        BadInput
            If there are too many.
        """
        spots = [(float(x), float(y)) for x, y in request["spots"]]
        if len(spots) > MOST_SPOTS:
            raise BadInput(say("The device reads {most} places at once.", most=MOST_SPOTS))
        light = self.press.spot_light(
            str(request["of"]), spots, APERTURE, int(request.get("number", 0))
        )
        seed = 1000 * self.state.machine + self.state.prints
        found = read_spots(light, seed=seed)
        return {"xyz": np.round(found, 6).tolist()}

    def dry(self, request: dict[str, Any], tell: Tell) -> dict[str, Any]:
        """Wait so many seconds, at the press's pace.

        Parameters
        ----------
        request : ``seconds``
        tell : is told how far it is

        Returns
        -------
        Nothing to say: an empty answer.

        Raises
        ------
        BadInput
            If it was stopped meanwhile.
        """
        self._stop.clear()
        seconds = float(request["seconds"]) / self.state.pace if self.state.pace else 0.0
        ticks = max(1, round(seconds / TICK))
        try:
            for tick in range(ticks if seconds else 0):
                if self._stop.is_set():
                    raise BadInput(say("It was stopped while it dried; go on when it is dry."))
                self.running = {"run": "drying", "layer": "", "done": tick / ticks}
                if tick % 10 == 0:
                    tell(status="printing", layer="drying", done=tick / ticks)
                time.sleep(TICK)
        finally:
            self.running = None
        return {}

    def picture(self, request: dict[str, Any], _: Tell) -> dict[str, Any]:
        """Write a picture of the bed, or of one piece.

        Parameters
        ----------
        request : ``path``; ``of``: bed, piece, turned or pressed; ``number`` of the piece;
            ``garment`` of the order

        Returns
        -------
        The ``path``.
        """
        self.press.save_picture(
            Path(request["path"]),
            str(request.get("of", "bed")),
            int(request.get("number", 0)),
            request.get("garment"),
        )
        return {"path": request["path"]}

    def finished(self, _: dict[str, Any], __: Tell) -> dict[str, Any]:
        """Where pieces lie, in mm, and which pictures show them as their readers see them."""
        bed = self.press.bed
        garments = [f"{g.name} {g.size}".strip() for g in bed.ticket.garments]
        found = []
        for number, piece in enumerate(bed.pieces):
            wide, high = np.ptp(bed.outline(piece.kind), axis=0).tolist()
            of = _SEEN[bed.ticket.pieces[piece.kind].reader]
            found.append({"number": number, "box": [piece.x, piece.y, wide, high], "of": of})
        return {"pieces": found, "garments": garments}

    def print(self, request: dict[str, Any], tell: Tell) -> dict[str, Any]:
        """Print a run; what stops it in the middle can be mended and the run goes on.

        Parameters
        ----------
        request : ``run``, by its name in the ticket
        tell : is told how far it is

        Raises
        ------
        BadInput
            If the run cannot be printed now, or was stopped in the middle.
        """
        bed = self.press.bed
        run = bed.ticket.run(str(request["run"]))
        why = self.state.why_not()
        if why:
            raise BadInput(why)
        if bed.pieces:
            self.state.check_height(bed.ticket.height)
        out = {"cyan", "white"} if "nozzle out" in self.state.faults else set()
        self.press.nozzles_out = frozenset(out)
        self.press.finds_lines = "line not seen" not in self.state.faults
        self._stop.clear()
        shown: dict[str, int] = {}

        def report(layer: str, share: float) -> None:
            self.running = {"run": run.name, "layer": layer, "done": share}
            if layer == "reading":
                if int(share * 10) > shown.get(layer, -1):
                    shown[layer] = int(share * 10)
                    tell(status="printing", layer=layer, done=share)
            elif share == 0.0:
                self._lay_down(bed, run, layer, tell)
            else:
                laid = bed.begun[run.name]
                self.memory.add(do="begin", run=run.name, layers=laid, out=sorted(out))

        try:
            self.press.print_run(run.name, report)
            self.memory.add(do="print", run=run.name, out=sorted(out))
            self.state.prints += 1
        finally:
            self.running = None
            self.state.keep(self.spool)
        return {}

    def _lay_down(self, bed: PressBed, run: TicketRun, name: str, tell: Tell) -> None:
        """Take a layer's time and ink, and look at what goes wrong meanwhile."""
        layer = next(one for one in run.layers if one.name == name)
        wanted = {
            ink.casefold(): run.ink_ml.get(channel, 0.0)
            for ink, channel in zip(layer.inks, layer.channels, strict=True)
        }
        seconds = run.seconds / len(run.layers) / self.state.pace if self.state.pace else 0.0
        ticks = max(1, round(seconds / TICK))
        for tick in range(ticks):
            if self._stop.is_set():
                raise BadInput(say("It was stopped in the middle; print the run again to go on."))
            why = self.state.why_not()
            if why:
                raise BadInput(
                    say("It stopped in the middle. {why} Print the run again to go on.", why=why)
                )
            for ink, ml in wanted.items():
                self.state.use(ink, ml / ticks)
            self.running = {"run": run.name, "layer": name, "done": (tick + 1) / ticks}
            if tick % 4 == 0:
                tell(status="printing", layer=name, done=(tick + 1) / ticks)
            if seconds:
                time.sleep(TICK)
        tell(status="printing", layer=name, done=1.0)


_ANY_TIME = {
    "status": Service.status, "fault": Service.fault, "fill": Service.fill,
    "pace": Service.at_pace, "stop": Service.stop,
}  # fmt: skip
#: Pictures of a piece by who reads it.
_SEEN = {
    "face": ["piece"], "through": ["turned"], "both": ["piece", "turned"], "transfer": ["pressed"],
}  # fmt: skip
#: What needs to know what lies on the bed.
_ON_THE_BED = frozenset({"place", "turn", "move", "picture", "finished", "print", "measure"})
_ALONE = {
    "take": Service.take,
    "load": Service.load, "place": Service.place, "turn": Service.turn,
    "height": Service.height, "move": Service.move,
    "picture": Service.picture, "finished": Service.finished, "print": Service.print,
    "dry": Service.dry, "become": Service.become, "measure": Service.measure,
}  # fmt: skip
