"""Proof: the predicted look, and each plate."""

from __future__ import annotations

from enum import StrEnum
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QFileDialog, QGridLayout, QPushButton, QSizePolicy, QSlider, QWidget

from farbe.desk.fields import fill
from farbe.desk.form import Form
from farbe.desk.images import alpha_image, paint_coverage, paint_picture, rgb_image
from farbe.desk.marks import pattern
from farbe.desk.results import Preview
from farbe.desk.stations.base import Desk, StationView, scrolled
from farbe.desk.stations.layers import PlateStrip, list_plates, stacked
from farbe.desk.stations.piece import surface_brush
from farbe.desk.stations.shakeform import ShakeRows
from farbe.desk.stations.worlds import PieceWorld
from farbe.desk.theme import font
from farbe.files.proofsheet import write_proof_sheet
from farbe.layout.outline import outline
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind
from farbe.optics.look import hits_for, opacity, white_film
from farbe.plan.sentence import surface_words
from farbe.separate.choke import Plate
from farbe.separate.tones import difference, lab_of

NOWHERE = "Point at the piece to read its inks."


class Shown(StrEnum):
    LOOK = "prediction"
    ARTWORK = "artwork"
    PLATE = "one plate"
    HIDING = "hiding"


class ProofCanvas(PieceWorld):
    """The piece as its reader will see it, or one of the things it is made from."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.shown = Shown.LOOK
        self.plate = ("", 0)
        #: From daylight, 0, to light from behind alone, 1.
        self.lit = 0.0
        #: Where the artwork takes over, as a share of the piece's width; 1 shows none of it.
        self.wipe = 1.0
        self._wiping = False
        self._images: dict[tuple[object, object], QImage] = {}
        self.setAccessibleName("The proof")
        desk.results.preview_changed.connect(self._new_preview)

    def frame(self) -> QRectF:
        return super().frame().adjusted(0, 14, 0, 0)

    def _new_preview(self) -> None:
        self._images.clear()
        self.refit()

    def show_as(self, shown: Shown, plate: tuple[str, int] | None = None) -> None:
        self.shown = shown
        self.plate = plate or self.plate
        self.update()

    def paint_world(self, painter: QPainter) -> None:
        job, preview = self._desk.session.job, self._desk.results.preview
        if job is None or preview is None:
            return
        edge = self.shape_path(outline(job.piece.shape), self.at(0, 0))
        painter.setPen(Qt.PenStyle.NoPen)
        plain = self.shown is Shown.PLATE
        painter.setBrush(QColor("#686868") if plain else surface_brush(job.piece.surface))
        painter.drawPath(edge)
        painter.save()
        painter.setClipPath(edge)
        width, height = preview.size
        box = self.box(-width / 2, -height / 2, width, height)
        if self.shown is Shown.PLATE:
            self._paint_plate(painter, preview, box)
        else:
            paint_picture(painter, box, self._image(preview))
            if self.wipe < 1.0 and self.shown is not Shown.ARTWORK:
                self._paint_wipe(painter, preview, box)
        painter.restore()
        painter.setPen(QPen(QColor("#2e2e2e"), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(edge)
        self._paint_caption(painter, preview)

    def _image(self, preview: Preview, shown: Shown | None = None) -> QImage:
        shown = shown or self.shown
        key = (shown, self.lit if shown is Shown.LOOK else 0.0)
        if key not in self._images:
            if shown is Shown.LOOK:
                pixels = preview.seen.by(self.lit)
            elif shown is Shown.HIDING:
                pixels = np.repeat(hiding(preview)[..., None], 3, axis=2)
            else:
                pixels = preview.artwork
            if shown is Shown.LOOK:
                # Of all lights only the present one is kept.
                self._images = {k: v for k, v in self._images.items() if k[0] is not Shown.LOOK}
            self._images[key] = rgb_image(pixels)
        return self._images[key]

    def light(self, lit: float) -> None:
        """Look at it by another light."""
        self.lit = lit
        self.update()

    def _paint_wipe(self, painter: QPainter, preview: Preview, box: QRectF) -> None:
        """The artwork on its surface to the right of the line."""
        x = box.left() + self.wipe * box.width()
        right = QRectF(x, box.top(), box.right() - x, box.height())
        painter.save()
        painter.setClipRect(right, Qt.ClipOperation.IntersectClip)
        painter.fillRect(right, surface_brush(preview.job.piece.surface))
        paint_picture(painter, box, self._image(preview, Shown.ARTWORK))
        painter.restore()
        painter.setPen(QPen(QColor("#ffffff"), 2))
        painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))

    def set_wipe(self, share: float) -> None:
        """Move the line between prediction and artwork."""
        self.wipe = min(1.0, max(0.0, share))
        self.update()

    def pressed(self, place: QPointF) -> None:
        preview = self._desk.results.preview
        if preview is not None and self.wipe < 1.0:
            here = place.x() / preview.size[0] + 0.5
            self._wiping = abs(here - self.wipe) * preview.size[0] * self.scale < 12

    def moved(self, event: QMouseEvent) -> None:
        preview = self._desk.results.preview
        if self._wiping and preview is not None:
            place = self.millimetres(event.position())
            self.set_wipe(min(0.999, place.x() / preview.size[0] + 0.5))

    def released(self) -> None:
        self._wiping = False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_W:
            self.set_wipe(0.5 if self.wipe >= 1.0 else 1.0)
        else:
            super().keyPressEvent(event)

    def _paint_plate(self, painter: QPainter, preview: Preview, box: QRectF) -> None:
        for layer, index, _, colour, plate in list_plates(preview):
            if (layer.name, index) == self.plate:
                key = self.plate
                if key not in self._images:
                    self._images[key] = alpha_image(plate)
                brush = QColor(colour) if layer.kind is LayerKind.COLOUR else pattern(layer.kind)
                paint_coverage(painter, box, self._images[key], brush)

    def _paint_caption(self, painter: QPainter, preview: Preview) -> None:
        job = preview.job
        side = {
            Reader.FACE: "from the face",
            Reader.THROUGH: "through the piece",
            Reader.TRANSFER: "once pressed and peeled",
        }[job.reader]
        words = {
            Shown.LOOK: f"Predicted look on {surface_words(job.piece)}, read {side}, {self._by()}",
            Shown.ARTWORK: "The artwork as the customer sent it, laid on the surface",
            Shown.PLATE: "One plate, as read",
            Shown.HIDING: "How far the layers hide what is behind: black nothing, white all",
        }[self.shown]
        painter.setFont(font(12.5))
        painter.setPen(QColor("#f4f4f4"))
        painter.drawText(QPointF(16, 24), words)

    def _by(self) -> str:
        if self.lit <= 0:
            return "by daylight"
        return "lit from behind" if self.lit >= 1 else f"{self.lit * 100:.0f} % lit from behind"


def hiding(preview: Preview) -> Plate:
    """Contrast ratio of all layers, 0 to 255."""
    if not preview.plates:
        return np.zeros(preview.artwork.shape[:2], np.uint8)
    named = {ink.name: ink.shown for ink in preview.job.printer.inks}
    found = opacity(preview.layers, preview.plates, preview.profile, named)
    return np.rint(np.clip(found, 0, 1) * 255).astype(np.uint8)


class ProofForm(Form):
    """What is shown, the inks under the pointer, and how far the white hides the surface."""

    def __init__(self, desk: Desk, canvas: ProofCanvas, strip: PlateStrip) -> None:
        super().__init__()
        self._desk, self._canvas, self._strip = desk, canvas, strip
        self.title("Proof", "what the reader will see")
        self._buttons: dict[Shown, QPushButton] = {}
        self.wide(self._switch())
        self.light = QSlider(Qt.Orientation.Horizontal)
        self.light.setRange(0, 100)
        self.light.setAccessibleName("Light, from day to lit from behind")
        self.light.setToolTip("Left by daylight, right lit from behind")
        self.light.valueChanged.connect(lambda value: canvas.light(value / 100))
        self.row("Light", self.light)
        wipe = QPushButton("Wipe to the artwork")
        wipe.setCheckable(True)
        wipe.setToolTip("The artwork to the right of a line that is dragged (W)")
        wipe.clicked.connect(lambda on: canvas.set_wipe(0.5 if on else 1.0))
        self.wide(wipe)
        self.head("Under the pointer")
        self._values = self.words(NOWHERE)
        self.head("White")
        self._opacity = self.words()
        self.shake = ShakeRows(self, desk)
        self.fold("For the customer", opened=True)
        self.button("Write the proof sheet…", self._ask_sheet, "A PDF with a place to sign")
        strip.picked.connect(lambda name, index: self.choose(Shown.PLATE, (name, index)))
        canvas.pointed.connect(
            lambda place: self._values.setText(_values(desk.results.preview, place))
        )
        desk.results.preview_changed.connect(self.refresh)
        self.choose(Shown.LOOK)

    def _ask_sheet(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Proof sheet", "proof.pdf", "PDF (*.pdf)")
        if name:
            self.write_sheet(Path(name))

    def write_sheet(self, path: Path) -> None:
        """Write the sheet that a customer signs."""
        job, store = self._desk.session.job, self._desk.session.store
        if job is not None:
            self._desk.workers.start(
                "proof sheet",
                lambda _: write_proof_sheet(job, store, path),
                lambda _: self._desk.session.said.emit(f"The proof sheet is {path}."),
                title="Writing the proof sheet",
            )

    def _switch(self) -> QWidget:
        switch = QWidget()
        row = QGridLayout(switch)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(3)
        for place, shown in enumerate(Shown):
            button = QPushButton(shown.value.capitalize())
            button.setCheckable(True)
            button.setAccessibleName(f"Show the {shown.value}")
            button.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            button.clicked.connect(lambda _=False, s=shown: self.choose(s))
            self._buttons[shown] = button
            row.addWidget(button, place // 2, place % 2)
        return switch

    def choose(self, shown: Shown, plate: tuple[str, int] | None = None) -> None:
        """Show the prediction, the artwork, or a plate."""
        self._canvas.show_as(shown, plate)
        self._mark()
        for key, button in self._buttons.items():
            fill(button, key is shown)

    def _mark(self) -> None:
        if self._canvas.shown is Shown.PLATE:
            self._strip.mark(*self._canvas.plate)
        else:
            self._strip.mark("")

    def refresh(self) -> None:
        preview = self._desk.results.preview
        if preview is None:
            return
        plates = list_plates(preview)
        if plates and self._canvas.plate not in {(la.name, i) for la, i, *_ in plates}:
            self._canvas.plate = (plates[0][0].name, plates[0][1])
        self._mark()
        hits = sum(la.hits for la in preview.layers if la.kind is LayerKind.WHITE)
        if not hits:
            self._opacity.setText("No white layer prints.")
            return
        hidden = white_film(hits)[0] * 100
        count = f"{hits} hit{'s' if hits > 1 else ''}"
        wanted = hits_for(0.9)
        self._opacity.setText(
            f"Solid white in {count} hides {hidden:.0f} % of what is behind it;"
            f" {wanted} hits hide 90 %."
        )


def proof_station(desk: Desk) -> StationView:
    """The station's picture and inspector."""
    canvas, strip = ProofCanvas(desk), PlateStrip(desk)
    return StationView(stacked(canvas, strip), scrolled(ProofForm(desk, canvas, strip)))


def _values(preview: Preview | None, place: QPointF) -> str:
    """The loupe: each ink's percent at a place of the piece, the film, and the colours."""
    if preview is None:
        return ""
    width, height = preview.size
    x = int((place.x() + width / 2) * preview.grid.per_mm_x)
    y = int((height / 2 - place.y()) * preview.grid.per_mm_y)
    rows, build = [], 0.0
    laydown = {ink.name.casefold(): ink.laydown for ink in preview.job.printer.inks}
    for layer, _, name, _, plate in list_plates(preview):
        if not (0 <= y < plate.shape[0] and 0 <= x < plate.shape[1]):
            return NOWHERE
        rows.append(f"{name}  {plate[y, x] / 2.55:.0f} %")
        ink = layer.ink or (name if layer.kind is LayerKind.COLOUR else layer.kind.value)
        build += plate[y, x] / 255 * layer.hits * laydown.get(ink.casefold(), 8.0)
    if not rows:
        return NOWHERE
    # A millilitre on a square metre is a micrometre.
    rows.append(f"film {build:.0f} µm, hides {hiding_at(preview, x, y) * 100:.0f} %")
    look, art = preview.look[y, x], preview.artwork[y, x]
    shown = "#{:02x}{:02x}{:02x}".format(*look.tolist())
    if art[3] >= 128:
        far = float(difference(lab_of(look), lab_of(art[:3])))
        rows.append(f"seen as {shown}, {far:.1f} ΔE from the artwork")
    else:
        rows.append(f"seen as {shown}, no artwork here")
    return f"{place.x():.1f}, {place.y():.1f} mm from the middle\n" + "\n".join(rows)


def hiding_at(preview: Preview, x: int, y: int) -> float:
    """Contrast ratio of all layers at one pixel."""
    named = {ink.name: ink.shown for ink in preview.job.printer.inks}
    spot = [plate[y : y + 1, x : x + 1] for plate in preview.plates]
    return float(opacity(preview.layers, spot, preview.profile, named)[0, 0])
