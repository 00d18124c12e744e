"""What is about the press besides its bed: ink, warmth, height, faults; kept in its spool."""

from __future__ import annotations

import json
import math
import os
import sys
import time
from dataclasses import asdict, dataclass, field
from pathlib import Path

from farbe.model.base import BadInput
from farbe.said import say, shipped

FILE_NAME = "press.json"
#: ml of each ink in a full tank.
FULL = 500.0
#: Degrees Celsius of a cold head and of one that prints, and seconds to warm up.
COLD, WARM, WARM_SECONDS = 22.0, 40.0, 180.0
#: What can be wrong, and what the operator does about it.
FAULTS = {
    shipped("cover open"): say("The cover is open; close it."),
    shipped("media out"): say("There is no board on the bed; load one."),
    shipped("head strike"): say("The head has struck a piece; look at it and clear the fault."),
    shipped("nozzle out"): "",
    shipped("line not seen"): "",
}
#: Faults with which it prints all the same, only not well.
PRINTS_WITH = frozenset({"nozzle out", "line not seen"})


@dataclass
class PressState:
    """The press as its panel shows it.

    Attributes
    ----------
    pace : how many times faster than a real press it prints; 0 as fast as it can
    head : mm over the bed at which the head is set; None if it measured the pieces itself
    board : width and height in mm of the board that is loaded; None if nobody said
    on_since : when it was switched on, in seconds of the system's clock
    machine : which one it is: 0 has the inks that the shipped profile is for, others their own
    drift : how far it has gone since it was set up, 0 to 1
    """

    ink_ml: dict[str, float] = field(default_factory=dict)
    faults: set[str] = field(default_factory=set)
    pace: float = 0.0
    head: float | None = None
    board: tuple[float, float] | None = None
    on_since: float = field(default_factory=time.time)
    prints: int = 0
    machine: int = 0
    drift: float = 0.0

    @classmethod
    def kept(cls, folder: Path, inks: frozenset[str], pace: float) -> PressState:
        """The state kept in a spool folder, or a fresh one; ``pace`` is times a press's speed.

        Parameters
        ----------
        folder : the press's own
        inks : of the printer
        pace : times a press's speed
        """
        full = dict.fromkeys(sorted(inks), FULL)
        try:
            found = json.loads((folder / FILE_NAME).read_text(encoding="utf-8"))
            return cls(
                ink_ml=full | {k: float(v) for k, v in found["ink_ml"].items() if k in full},
                faults={name for name in found["faults"] if name in FAULTS},
                pace=pace,
                prints=int(found["prints"]),
                machine=int(found.get("machine", 0)),
                drift=float(found.get("drift", 0.0)),
            )
        except FileNotFoundError:
            # It never printed.
            return cls(ink_ml=full, pace=pace)
        except (OSError, ValueError, KeyError, TypeError, AttributeError) as error:
            print(
                say(
                    "{folder} cannot be read ({error}); tanks count as full.",
                    folder=folder / FILE_NAME,
                    error=error,
                ),
                file=sys.stderr,
            )
            return cls(ink_ml=full, pace=pace)

    def keep(self, folder: Path) -> None:
        """Write it down whole or not at all.

        Parameters
        ----------
        folder : the press's own
        """
        fresh = folder / f".{FILE_NAME}"
        fields = asdict(self) | {"faults": sorted(self.faults)}
        fresh.write_text(json.dumps(fields, indent=1), encoding="utf-8")
        os.replace(fresh, folder / FILE_NAME)

    @property
    def temperature(self) -> float:
        """Degrees Celsius of the heads; a press without pace is warm at once."""
        if self.pace <= 0:
            return WARM
        done = (time.time() - self.on_since) * self.pace / WARM_SECONDS
        return COLD + (WARM - COLD) * (1.0 - math.exp(-3.0 * done)) if done < 1 else WARM

    @property
    def warming(self) -> bool:
        """Whether it only needs time."""
        return not self.faults - PRINTS_WITH and self.temperature < WARM - 1.0

    def why_not(self) -> str:
        """Why it cannot print now; empty if it can."""
        for name in sorted(self.faults - PRINTS_WITH):
            return FAULTS[name]
        if self.temperature < WARM - 1.0:
            return say(
                "The heads are at {temperature} °C and need {warm}; wait.",
                temperature=f"{self.temperature:.0f}",
                warm=f"{WARM:.0f}",
            )
        return ""

    def check_height(self, piece: float) -> None:
        """Stop a head that would run into the pieces.

        Parameters
        ----------
        piece : its height in mm

        Raises
        ------
        BadInput
            If it is set lower than they are high.
        """
        if self.head is not None and self.head < piece - 1e-6:
            self.faults.add("head strike")
            raise BadInput(
                say(
                    "The head is set to {head} mm and the pieces are {piece} mm high: it strikes "
                    "them. Set the height and clear the fault.",
                    head=f"{self.head:g}",
                    piece=f"{piece:g}",
                )
            )

    def check_board(self, width: float, height: float) -> None:
        """Refuse what is larger than the board that is loaded.

        Parameters
        ----------
        width, height : mm

        Raises
        ------
        BadInput
            If it is.
        """
        if self.board is None:
            return
        wide, high = self.board
        if width > wide + 1e-6 or height > high + 1e-6:
            raise BadInput(
                say(
                    "The board that is loaded is {wide} × {high} mm, and the job's is {width} × "
                    "{height}; load another, or take its size over.",
                    wide=f"{wide:g}",
                    high=f"{high:g}",
                    width=f"{width:g}",
                    height=f"{height:g}",
                )
            )

    def use(self, ink: str, ml: float) -> None:
        """Take ink from its tank.

        Parameters
        ----------
        ink : its name
        ml : millilitres

        Raises
        ------
        BadInput
            If there is not so much left.
        """
        left = self.ink_ml.get(ink, 0.0)
        if left < ml:
            raise BadInput(say("There is no {ink} left; fill it up and go on.", ink=ink))
        self.ink_ml[ink] = left - ml
