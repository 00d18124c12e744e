"""Bed: where the pieces lie, what each prints, and what shows the places."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QVBoxLayout

from farbe.desk.inspector import Inspector
from farbe.desk.stations.base import Desk, StationView
from farbe.desk.stations.bed.canvas import BedCanvas
from farbe.desk.stations.bed.form.artwork import ArtworkPart
from farbe.desk.stations.bed.form.grid import BoardPart, GridPart, KeepOutPart
from farbe.desk.stations.bed.form.guide import GuidePart
from farbe.desk.stations.bed.form.marks import MarksPart
from farbe.desk.stations.bed.form.measured import MeasuredPart
from farbe.desk.stations.bed.form.places import PlacesPart
from farbe.desk.stations.bed.form.pocket import PocketPart
from farbe.desk.stations.bed.form.sides import SidesPart
from farbe.desk.stations.bed.form.text import TextPart
from farbe.desk.stations.bed.pointing import Spot
from farbe.desk.stations.bed.rollcanvas import RollCanvas
from farbe.desk.stations.bed.rollform import (
    CutPart,
    FilmArtworkPart,
    FilmPart,
    FilmSidesPart,
    GarmentPart,
    LayingPart,
)
from farbe.desk.stations.bed.tray import Tray
from farbe.desk.stations.part import Part
from farbe.said import say


class BedInspector(Inspector):
    """What can be chosen on a board or on a film, in the order in which it is decided."""

    def __init__(self, desk: Desk, canvas: BedCanvas, roll: RollCanvas) -> None:
        super().__init__(say("Bed"))
        self._desk = desk
        self.pocket = PocketPart(self, desk, canvas)
        self.on_film = FilmArtworkPart(self, desk, roll)
        self.artwork = ArtworkPart(self, desk)
        self.text = TextPart(self, desk)
        self.grid = GridPart(self, desk, canvas)
        self.places = PlacesPart(self, desk, canvas)
        self.board = BoardPart(self, desk)
        self.keep_outs = KeepOutPart(self, desk, canvas)
        self.film = FilmPart(self, desk)
        self.laying = LayingPart(self, desk)
        self.cut = CutPart(self, desk)
        self.guide = GuidePart(self, desk)
        self.sides = SidesPart(self, desk)
        self.film_sides = FilmSidesPart(self, desk)
        self.garments = GarmentPart(self, desk)
        self.marks = MarksPart(self, desk)
        self.measured = MeasuredPart(self, desk, canvas)
        self._on_board: tuple[Part, ...] = (
            self.pocket, self.artwork, self.grid, self.places, self.board, self.keep_outs,
            self.guide, self.sides, self.measured,
        )  # fmt: skip
        self._on_roll: tuple[Part, ...] = (
            self.on_film,
            self.film,
            self.laying,
            self.cut,
            self.film_sides,
        )
        desk.session.changed.connect(self.refresh)
        canvas.pointed_at.connect(self._pointed)
        roll.pointed_at.connect(lambda: self.choose(self.on_film.thing))
        self.refresh()

    def refresh(self) -> None:
        """List the things of a board or those of a film."""
        job = self._desk.session.job
        if job is None:
            return
        on_film = job.roll is not None
        there, gone = self._on_board, self._on_roll
        if on_film:
            there, gone = gone, there
        # Those that come are there before those go, one of which may be the chosen one.
        for part in there:
            part.thing.offer(True)
        for part in gone:
            part.thing.offer(False)

    def _pointed(self, spot: Spot, which: int) -> None:
        """Show the values of what was clicked in the picture; who arranges pockets goes on."""
        in_pocket = spot in (Spot.POCKET, Spot.ARTWORK, Spot.TEXT)
        if in_pocket and self.current is self.places.thing:
            return
        self.choose({
            Spot.POCKET: self.pocket, Spot.ARTWORK: self.artwork, Spot.TEXT: self.text,
            Spot.KEEP_OUT: self.keep_outs, Spot.JIG: self.grid, Spot.BOARD: self.board,
            Spot.GUIDE: self.guide,
        }[spot].thing)  # fmt: skip
        if spot is Spot.TEXT:
            self.text.choose(which)


def bed_station(desk: Desk, print_again: Callable[[list[int]], None]) -> StationView:
    """The station's picture, inspector and tray; what failed is printed again as is told."""
    canvas = BedCanvas(desk)
    canvas.wanted_again.connect(print_again)
    film = RollCanvas(desk, canvas)
    over = QVBoxLayout(canvas)
    over.setContentsMargins(0, 0, 0, 0)
    over.addWidget(film)
    return StationView(canvas, BedInspector(desk, canvas, film), Tray(desk, canvas))
