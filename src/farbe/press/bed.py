"""What lies on the press's bed, and the films on it."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import numpy.typing as npt

from farbe.files.ticket import Ticket, TicketPocket
from farbe.press.plates import Coverage

#: Pixels of the press's pictures per mm.
SCALE = 5.0
#: Pixels of a picture; large beds have fewer of them per mm.
MOST_PIXELS = 12_000_000


@dataclass(frozen=True)
class Capability:
    """What this press can take; sizes in mm."""

    bed_width: float = 3200.0
    bed_height: float = 2000.0
    roll_width: float = 1600.0
    head_height: float = 100.0
    inks: frozenset[str] = frozenset({"cyan", "magenta", "yellow", "black", "white", "varnish"})


@dataclass(frozen=True)
class LaidFilm:
    """One layer as laid down: coverage by process ink, or of white or varnish."""

    kind: str
    coverage: dict[str, Coverage]
    hits: int


@dataclass(frozen=True)
class Lying:
    """A piece on the bed: its middle in mm, and which of the ticket's kinds it is."""

    x: float
    y: float
    kind: int


@dataclass
class PressBed:
    """What lies on the bed: films on the board, pieces, films on top of all."""

    ticket: Ticket
    folder: Path
    on_board: list[LaidFilm] = field(default_factory=list)
    pieces: list[Lying] = field(default_factory=list)
    on_pieces: list[LaidFilm] = field(default_factory=list)
    #: The jig's code that was printed with the guide.
    guide_code: str | None = None
    #: Films on the side that is turned away, as they were printed; None before pieces are turned.
    behind: list[LaidFilm] | None = None
    #: Films that lie on the other side of a film that was loaded again, as they lie when it is up.
    other_side: list[LaidFilm] = field(default_factory=list)
    #: How far a film was loaded off after it was turned over, in mm, and what the operator moved.
    slip: tuple[float, float] = (0.0, 0.0)
    moved: tuple[float, float] | None = None
    #: Layers laid down of runs that were stopped in the middle, and runs that are complete.
    begun: dict[str, int] = field(default_factory=dict)
    complete: set[str] = field(default_factory=set)

    def outline(self, kind: int) -> npt.NDArray[np.float64]:
        """A kind of piece as it lies now, in mm around its middle.

        Parameters
        ----------
        kind : its place among the ticket's kinds of pieces

        Returns
        -------
        float64
        """
        back = self.ticket.back
        if self.behind is None or back is None:
            return np.array(self.ticket.pieces[kind].outline)
        return np.array(back.outlines[kind])

    @property
    def pockets(self) -> tuple[TicketPocket, ...]:
        """The pockets of the side that is up."""
        back = self.ticket.back
        return self.ticket.pockets if self.behind is None or back is None else back.pockets

    @property
    def scale(self) -> float:
        """Pixels per mm: fewer on a bed or a film that is very large."""
        area = self.ticket.bed_width * self.ticket.bed_height
        return min(SCALE, float(np.sqrt(MOST_PIXELS / area)))

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns of the bed, in pixels."""
        return (
            round(self.ticket.bed_height * self.scale),
            round(self.ticket.bed_width * self.scale),
        )
