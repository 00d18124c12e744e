"""Bed: where the pieces lie, what each prints, and what shows the places."""

from __future__ import annotations

from farbe.desk.form import Form
from farbe.desk.stations.base import Desk, StationView, scrolled
from farbe.desk.stations.bedcanvas import BedCanvas
from farbe.desk.stations.bedform.artwork import ArtworkPart
from farbe.desk.stations.bedform.grid import BoardPart, GridPart, KeepOutPart
from farbe.desk.stations.bedform.guide import CuttingPart, GuidePart
from farbe.desk.stations.bedform.marks import MarksPart
from farbe.desk.stations.bedform.measured import MeasuredPart
from farbe.desk.stations.bedform.part import Part
from farbe.desk.stations.bedform.pocket import PocketPart
from farbe.desk.stations.bedform.sides import SidesPart
from farbe.desk.stations.bedform.text import TextPart
from farbe.desk.stations.tray import Tray


class BedForm(Form):
    """The groups in the order in which they are decided."""

    def __init__(self, desk: Desk, canvas: BedCanvas) -> None:
        super().__init__()
        self.pocket = PocketPart(self, desk, canvas)
        self.grid = GridPart(self, desk)
        self.artwork = ArtworkPart(self, desk)
        self.text = TextPart(self, desk)
        self.sides = SidesPart(self, desk)
        self.board = BoardPart(self, desk)
        self.keep_outs = KeepOutPart(self, desk, canvas)
        self.guide = GuidePart(self, desk)
        self.cutting = CuttingPart(self, desk)
        self.marks = MarksPart(self, desk)
        self.measured = MeasuredPart(self, desk, canvas)
        self.parts: tuple[Part, ...] = (
            self.pocket, self.grid, self.artwork, self.text, self.sides, self.board,
            self.keep_outs, self.guide, self.cutting, self.marks, self.measured,
        )  # fmt: skip
        for part in self.parts:
            part.refresh()


def bed_station(desk: Desk) -> StationView:
    """The station's picture, inspector and tray."""
    canvas = BedCanvas(desk)
    return StationView(canvas, scrolled(BedForm(desk, canvas)), Tray(desk, canvas))
