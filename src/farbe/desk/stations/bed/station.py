"""Bed: where the pieces lie, what each prints, and what shows the places."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from farbe.desk.form import Form
from farbe.desk.stations.base import Desk, StationView, scrolled
from farbe.desk.stations.bed.canvas import BedCanvas
from farbe.desk.stations.bed.form.artwork import ArtworkPart
from farbe.desk.stations.bed.form.grid import BoardPart, GridPart, KeepOutPart
from farbe.desk.stations.bed.form.guide import CuttingPart, GuidePart
from farbe.desk.stations.bed.form.marks import MarksPart
from farbe.desk.stations.bed.form.measured import MeasuredPart
from farbe.desk.stations.bed.form.part import Part
from farbe.desk.stations.bed.form.pocket import PocketPart
from farbe.desk.stations.bed.form.sides import SidesPart
from farbe.desk.stations.bed.form.text import TextPart
from farbe.desk.stations.bed.rollcanvas import RollCanvas
from farbe.desk.stations.bed.rollform import RollForm, lies_on
from farbe.desk.stations.bed.tray import Tray
from farbe.edits.film import on_roll


class BedForm(Form):
    """What the job lies on, then the groups in the order in which they are decided."""

    def __init__(self, desk: Desk, canvas: BedCanvas) -> None:
        super().__init__()
        self._desk = desk
        self.row("Lies on", lies_on(desk, on_roll))
        self._board, self.roll = Form(), RollForm(desk)
        self._board.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        self.wide(self._board)
        self.wide(self.roll)
        self._build(self._board, desk, canvas)
        for part in self.parts:
            part.refresh()
        desk.session.changed.connect(self.refresh)
        self.refresh()

    def _build(self, form: Form, desk: Desk, canvas: BedCanvas) -> None:
        self.pocket = PocketPart(form, desk, canvas)
        self.grid = GridPart(form, desk)
        self.artwork = ArtworkPart(form, desk)
        self.text = TextPart(form, desk)
        self.sides = SidesPart(form, desk)
        self.board = BoardPart(form, desk)
        self.keep_outs = KeepOutPart(form, desk, canvas)
        self.guide = GuidePart(form, desk)
        self.cutting = CuttingPart(form, desk)
        self.marks = MarksPart(form, desk)
        self.measured = MeasuredPart(form, desk, canvas)
        self.parts: tuple[Part, ...] = (
            self.pocket, self.grid, self.artwork, self.text, self.sides, self.board,
            self.keep_outs, self.guide, self.cutting, self.marks, self.measured,
        )  # fmt: skip

    def refresh(self) -> None:
        """Show the rows of a board or those of a film."""
        job = self._desk.session.job
        on_film = job is not None and job.roll is not None
        self._board.setVisible(not on_film)
        self.roll.setVisible(on_film)

    def reveal(self, field: QWidget) -> None:
        for form in (self._board, self.roll):
            form.reveal(field)


def bed_station(desk: Desk) -> StationView:
    """The station's picture, inspector and tray."""
    canvas = BedCanvas(desk)
    film = RollCanvas(desk, canvas)
    over = QVBoxLayout(canvas)
    over.setContentsMargins(0, 0, 0, 0)
    over.addWidget(film)
    return StationView(canvas, scrolled(BedForm(desk, canvas)), Tray(desk, canvas))
