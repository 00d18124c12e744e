"""The Proof's picture: the piece as its reader will see it, or what it is made from."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import QMimeData, QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QMenu

from farbe.art.artwork import MM_PER_INCH
from farbe.desk.handout import copy_picture, drag_picture, is_drag
from farbe.desk.images import alpha_image, paint_coverage, paint_picture, plate_picture, rgb_image
from farbe.desk.looks import Looks
from farbe.desk.marks import pattern
from farbe.desk.stations.base import Desk
from farbe.desk.stations.closerworld import CloserWorld
from farbe.desk.stations.layers.platestrip import list_plates
from farbe.desk.stations.layers.station import rich
from farbe.desk.stations.piece.canvas import surface_brush
from farbe.desk.theme import font
from farbe.follows.looking import Scene, Shown, grid_for
from farbe.layout.figures import measure
from farbe.layout.outline import outline
from farbe.model.piece import Material, Reader, RoundBody
from farbe.model.printer import LayerKind
from farbe.optics.turned import body_picture
from farbe.plan.alternatives import ARTWORK
from farbe.plan.sentence import surface_words
from farbe.render.glimpse import Box, Glimpse
from farbe.said import say
from farbe.separate.grid import Grid

#: Pixels of a print for one of the body that it is shown on.
FINER = 2.0
LINES = {
    LayerKind.COLOUR: Qt.PenStyle.SolidLine,
    LayerKind.WHITE: Qt.PenStyle.DashLine,
    LayerKind.VARNISH: Qt.PenStyle.DotLine,
    LayerKind.BLACKOUT: Qt.PenStyle.DashDotLine,
    LayerKind.NAMED: Qt.PenStyle.DashDotDotLine,
}
INKS = {
    LayerKind.COLOUR: "#f2c744",
    LayerKind.WHITE: "#ffffff",
    LayerKind.VARNISH: "#e3b98a",
    LayerKind.BLACKOUT: "#101010",
    LayerKind.NAMED: "#9fd0c0",
}
_SIDES = {
    Reader.FACE: (say("from the face"), say("through the piece")),
    Reader.THROUGH: (say("through the piece"), say("from the printed face")),
    Reader.TRANSFER: (say("once pressed and peeled"), say("from the printed face of its carrier")),
}


class ProofCanvas(CloserWorld):
    """Shows the scenes of :class:`Looks`."""

    def __init__(self, desk: Desk, looks: Looks) -> None:
        super().__init__(desk, looks.close_up)
        self.looks = looks
        self.plate = ("", 0)
        #: Where the other look takes over, as a share of the piece's width; 1 shows none of it.
        self.wipe = 1.0
        self._wiping = False
        self._wiped_from = 1.0
        self._pressed_at: QPointF | None = None
        #: Degrees by which a round body is turned to the left.
        self.turn = 0.0
        self._images: dict[tuple[Any, Any], QImage] = {}
        self._of: tuple[Scene | None, Scene | None] = (None, None)
        self.setAccessibleName(say("The proof"))
        looks.changed.connect(self._new_scenes)

    @property
    def shown(self) -> Shown:
        return self.looks.wanted.shown

    def frame(self) -> QRectF:
        return super().frame().adjusted(0, 14, 0, 0)

    def _new_scenes(self) -> None:
        if self.looks.whole is not None:
            self.tell(f"{self._caption(self.looks.whole)}; {self._desk.results.shown_print[2]}")
        if self._of != (self.looks.whole, self.looks.detail):
            self._of = (self.looks.whole, self.looks.detail)
            self._images.clear()
        self.refit()

    # zooming in

    def whole(self) -> Glimpse | None:
        return None if self.looks.whole is None else self.looks.whole.part

    def near(self) -> Glimpse | None:
        return None if self.looks.detail is None else self.looks.detail.part

    def closer(self) -> tuple[Box, Grid] | None:
        whole = self.looks.whole
        if whole is None or self._body(whole) is None:
            return super().closer()
        if not self._is_coarse(whole):
            return None
        return whole.part.box, grid_for(whole.part.job, self._body_per_mm(whole) * FINER)

    # drawing

    def paint_world(self, painter: QPainter) -> None:
        whole = self.looks.whole
        if whole is None:
            return
        job = whole.part.job
        surface = whole.wanted.view.surface or job.piece.surface
        body = self._body(whole)
        if body is not None:
            fine = self.looks.detail
            if fine is None and self._is_coarse(whole):
                self._rest.start()
            covers = fine is not None and fine.part.box.width >= 0.99 * whole.part.box.width
            self._paint_body(painter, fine if fine is not None and covers else whole, body)
            return
        shape = outline(job.piece.shape)
        edge = self.shape_path(shape, self.at(0, 0))
        painter.setPen(Qt.PenStyle.NoPen)
        plain = self.shown in (Shown.PLATE, Shown.OUTLINES, Shown.WHITE, Shown.REACH)
        painter.setBrush(QColor("#686868") if plain else surface_brush(surface))
        painter.drawPath(edge)
        painter.save()
        painter.setClipPath(edge)
        self._paint_scene(painter, whole)
        if self.looks.detail is not None:
            self._paint_scene(painter, self.looks.detail)
        if self.wiping:
            self._paint_line(painter, whole)
        painter.restore()
        self.paint_edge(painter, shape, "#2e2e2e", 1.2)
        if self.shown is Shown.OUTLINES:
            self._paint_legend(painter, whole)
        self.paint_places(painter)
        self._paint_caption(painter, whole)
        self.paint_scale(painter)

    def set_turn(self, degrees: float) -> None:
        """Turn the body that the proof is on."""
        self.turn = degrees
        self.update()

    def _body(self, whole: Scene) -> RoundBody | None:
        """The body that the print is shown on, if it is."""
        shape = whole.part.job.piece.shape
        return shape if self.shown is Shown.BODY and isinstance(shape, RoundBody) else None

    def _body_per_mm(self, whole: Scene) -> float:
        """Pixels of the screen to the millimetre of a body that fills the picture."""
        body, frame = self._body(whole), self.frame().adjusted(0, 6, 0, -6)
        if body is None:
            return 0.0
        fits = min(frame.height() / body.zone, frame.width() / body.widest)
        return float(fits * self.devicePixelRatioF())

    def _is_coarse(self, whole: Scene) -> bool:
        """Whether the body is shown with more pixels than the picture of its print has."""
        job = whole.part.job
        finest = job.printer.dpi_x / MM_PER_INCH
        wanted = min(self._body_per_mm(whole) * FINER, finest)
        return whole.part.grid.per_mm_x < 0.9 * wanted

    def _paint_body(self, painter: QPainter, whole: Scene, body: RoundBody) -> None:
        """The prediction on the body, turned."""
        frame = self.frame().adjusted(0, 6, 0, -6)
        # In pixels of the screen, of which there may be more than of the window.
        ratio = self.devicePixelRatioF()
        high = max(8, round(body.zone * self._body_per_mm(whole)))
        surface = whole.wanted.view.surface or whole.part.job.piece.surface
        bare = surface.colour if surface.material is not Material.CLEAR else "#dfe6ea"
        key = (id(whole), f"body {self.turn:g} {high}")
        if key not in self._images:
            picture = body_picture(
                body, whole.look, whole.part.grid, turn=self.turn, height=high, bare=bare
            )
            # Of turns that were shown before, none is asked for again.
            self._images = {k: v for k, v in self._images.items() if "body" not in str(k[1])}
            self._images[key] = rgb_image(picture)
        image = self._images[key]
        box = QRectF(0, 0, image.width() / ratio, image.height() / ratio)
        box.moveCenter(frame.center())
        paint_picture(painter, box, image)
        self._paint_caption(painter, whole)

    def switch_outlines(self) -> None:
        now = self.shown is Shown.OUTLINES
        self.looks.want(shown=Shown.LOOK if now else Shown.OUTLINES)

    @property
    def wiping(self) -> bool:
        """Whether another look takes a part of the picture."""
        return self.wipe < 1.0 and self.shown is Shown.LOOK

    def _box(self, scene: Scene) -> QRectF:
        box = scene.part.box
        return self.box(box.left, box.bottom, box.width, box.height)

    def _paint_scene(self, painter: QPainter, scene: Scene) -> None:
        box = self._box(scene)
        smooth = self.scale < 4 * scene.part.grid.per_mm_x
        match self.shown:
            case Shown.PLATE:
                self._paint_plate(painter, scene, box, smooth)
            case Shown.WHITE:
                self._paint_white(painter, scene, box, smooth)
            case Shown.OUTLINES:
                self._paint_outlines(painter, scene)
            case Shown.HIDING if scene.hiding is not None:
                paint_picture(painter, box, self._image(scene, "hiding"), smooth=smooth)
            case Shown.REACH if scene.reach is not None:
                paint_picture(painter, box, self._image(scene, "reach"), smooth=smooth)
            case Shown.ARTWORK:
                paint_picture(painter, box, self._image(scene, "artwork"), smooth=smooth)
            case _:
                paint_picture(painter, box, self._image(scene, "look"), smooth=smooth)
                if self.wiping:
                    self._paint_other(painter, scene, box, smooth)

    def _image(self, scene: Scene, what: str) -> QImage:
        key = (id(scene), what)
        if key not in self._images:
            grey = scene.hiding if what == "hiding" else None
            if grey is not None:
                self._images[key] = rgb_image(np.repeat(grey[..., None], 3, axis=2))
            else:
                pixels = {
                    "look": scene.look,
                    "other": scene.other,
                    "artwork": scene.part.artwork,
                    "reach": None
                    if scene.reach is None
                    else scene.reach.picture(scene.part.artwork),
                }
                found = pixels[what]
                self._images[key] = rgb_image(scene.look if found is None else found)
        return self._images[key]

    def _paint_other(self, painter: QPainter, scene: Scene, box: QRectF, smooth: bool) -> None:
        """What it is wiped to, to the right of the line."""
        whole = self.looks.whole
        if whole is None:
            return
        x = self._line(whole)
        right = QRectF(x, box.top(), max(0.0, box.right() - x), box.height())
        painter.save()
        painter.setClipRect(right, Qt.ClipOperation.IntersectClip)
        if scene.wanted.against in (None, ARTWORK):
            surface = scene.wanted.view.surface or scene.part.job.piece.surface
            painter.fillRect(right, QColor("#c9cdcf"))
            painter.fillRect(right, surface_brush(surface))
            paint_picture(painter, box, self._image(scene, "artwork"), smooth=smooth)
        else:
            paint_picture(painter, box, self._image(scene, "other"), smooth=smooth)
        painter.restore()

    def _line(self, whole: Scene) -> float:
        box = self._box(whole)
        return box.left() + self.wipe * box.width()

    def _paint_line(self, painter: QPainter, whole: Scene) -> None:
        box, x = self._box(whole), self._line(whole)
        painter.setPen(QPen(QColor("#ffffff"), 2))
        painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))

    def give_up(self) -> bool:
        if not self._wiping:
            return super().give_up()
        self._wiping = False
        self.set_wipe(self._wiped_from)
        return True

    def set_wipe(self, share: float) -> None:
        """Move the line between the prediction and what it is wiped to."""
        self.wipe = min(1.0, max(0.0, share))
        self.update()

    def _paint_plate(self, painter: QPainter, scene: Scene, box: QRectF, smooth: bool) -> None:
        for layer, index, _, colour, plate in list_plates(scene.part):
            if (layer.name, index) == self.plate:
                key = (id(scene), self.plate)
                if key not in self._images:
                    self._images[key] = alpha_image(plate)
                brush = QColor(colour) if layer.kind is LayerKind.COLOUR else pattern(layer.kind)
                paint_coverage(painter, box, self._images[key], brush, smooth=smooth)

    def _paint_white(self, painter: QPainter, scene: Scene, box: QRectF, smooth: bool) -> None:
        """White of the artwork: hatched where it gets ink, chequered where it does not."""
        if scene.white is None:
            return
        key = (id(scene), "faint")
        if key not in self._images:
            self._images[key] = rich(rgb_image(scene.part.artwork), 0.3)
        painter.fillRect(box, QColor("#686868"))
        paint_picture(painter, box, self._images[key], smooth=smooth)
        for name, mask, brush in (
            ("inked", scene.white.inked, pattern(LayerKind.WHITE)),
            ("bare", scene.white.bare, bare_pattern()),
        ):
            key = (id(scene), name)
            if key not in self._images:
                self._images[key] = alpha_image(mask)
            paint_coverage(painter, box, self._images[key], brush, smooth=smooth)

    def _paint_outlines(self, painter: QPainter, scene: Scene) -> None:
        if self.looks.detail is not None and scene is not self.looks.detail:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for layer in scene.part.layers:
            painter.setPen(QPen(QColor(INKS[layer.kind]), 1.3, LINES[layer.kind]))
            for line in (scene.lines or {}).get(layer.name, []):
                # Corners closer than a pixel tell nothing.
                every = max(1, round(scene.part.grid.per_mm_x / self.scale))
                painter.drawPolygon(QPolygonF([self.at(x, y) for x, y in line[::every]]))

    def _paint_legend(self, painter: QPainter, whole: Scene) -> None:
        """Which line is which layer, and how far it stays from the piece's edge."""
        painter.setFont(font(12.5))
        y = self.height() - 18.0 - 20.0 * (len(whole.part.layers) - 1)
        for layer in whole.part.layers:
            painter.setPen(QPen(QColor(INKS[layer.kind]), 1.6, LINES[layer.kind]))
            painter.drawLine(QPointF(16, y - 4), QPointF(52, y - 4))
            painter.setPen(QColor("#f4f4f4"))
            far = (whole.margins or {}).get(layer.name)
            painter.drawText(QPointF(60, y), f"{layer.words}: {_margin_words(far)}")
            y += 20

    def _caption(self, whole: Scene) -> str:
        """What is shown, in words."""
        job, view = whole.part.job, whole.wanted.view
        piece = job.piece.replace(surface=view.surface) if view.surface else job.piece
        side = _SIDES[job.reader][view.other_side]
        words = {
            Shown.LOOK: say(
                "Predicted look on {surface}, read {side}, {by}",
                surface=surface_words(piece),
                side=side,
                by=self._by(),
            ),
            Shown.ARTWORK: say("The artwork as the customer sent it, laid on the surface"),
            Shown.WHITE: say(
                "White of the artwork: hatched where white ink lies, chequered where none"
            ),
            Shown.PLATE: say("One plate, as read"),
            Shown.HIDING: say("How far the layers hide what is behind: black nothing, white all"),
            Shown.OUTLINES: say("Where each layer ends"),
            Shown.REACH: say("Colours that the inks do not reach: yellow a little, red far"),
            Shown.BODY: say(
                "Predicted look on the body, turned by {turn}°", turn=f"{self.turn:.0f}"
            ),
        }[self.shown]
        against = whole.wanted.against
        if self.wiping and against is not None:
            words += say("; to the right {against}", against=against.words)
        return words

    def _paint_caption(self, painter: QPainter, whole: Scene) -> None:
        painter.setFont(font(12.5))
        painter.setPen(QColor("#f4f4f4"))
        painter.drawText(QPointF(16, 24), self._caption(whole))

    def _by(self) -> str:
        lit = self.looks.wanted.view.lit
        if lit <= 0:
            return say("by daylight")
        return (
            say("lit from behind")
            if lit >= 1
            else say("{lit} % lit from behind", lit=f"{lit * 100:.0f}")
        )

    # out of the window

    def picture(self) -> QImage | None:
        """All of the piece as it is shown, without lines and words; None before it is there."""
        whole = self.looks.whole
        if whole is None:
            return None
        if self.shown is Shown.PLATE:
            return next(
                (
                    plate_picture(alpha_image(plate))
                    for layer, index, _, _, plate in list_plates(whole.part)
                    if (layer.name, index) == self.plate
                ),
                None,
            )
        return self._image(whole, "artwork" if self.shown is Shown.ARTWORK else "look")

    def copied(self) -> QMimeData | None:
        picture = self.picture()
        if picture is None:
            return None
        data = QMimeData()
        data.setImageData(picture)
        return data

    def fill_menu(self, menu: QMenu, place: QPointF) -> None:
        picture = self.picture()
        if picture is not None:
            menu.addAction(say("Copy the picture"), lambda: copy_picture(picture))
        menu.addAction(say("Write the proof sheet…"), self._desk.exports.ask_proof_sheet)

    def _name(self) -> str:
        job = self._desk.session.job
        what = self.plate[0] if self.shown is Shown.PLATE else "proof"
        return f"{job.name if job is not None else 'Farbe'} {what}"

    # mouse and keys

    def pressed(self, place: QPointF) -> None:
        whole = self.looks.whole
        self._pressed_at = self.at(place.x(), place.y())
        if whole is not None and self.wiping:
            self._wiped_from = self.wipe
            self._wiping = abs(self.at(place.x(), 0).x() - self._line(whole)) < 12

    def moved(self, event: QMouseEvent) -> None:
        whole = self.looks.whole
        if self._wiping and whole is not None:
            box = self._box(whole)
            share = (event.position().x() - box.left()) / max(1.0, box.width())
            self.set_wipe(min(0.999, share))
        elif event.buttons() & Qt.MouseButton.LeftButton and is_drag(
            self._pressed_at, event.position()
        ):
            self._pressed_at = None
            if (picture := self.picture()) is not None:
                drag_picture(self, picture, self._name())

    def released(self) -> None:
        self._wiping, self._pressed_at = False, None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, plain = event.key(), event.modifiers() == Qt.KeyboardModifier.NoModifier
        if key == Qt.Key.Key_W:
            self.set_wipe(0.5 if self.wipe >= 1.0 else 1.0)
            self.looks.changed.emit()
        elif self.wiping and plain and key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = 0.02 if key == Qt.Key.Key_Right else -0.02
            self.set_wipe(min(0.999, max(0.0, self.wipe + step)))
        else:
            super().keyPressEvent(event)


def bare_pattern() -> QBrush:
    """Squares that no ink has: where white of the artwork stays bare."""
    tile = QImage(8, 8, QImage.Format.Format_RGB32)
    tile.fill(QColor("#d8542b"))
    painter = QPainter(tile)
    painter.fillRect(0, 0, 4, 4, QColor("#2d2d2d"))
    painter.fillRect(4, 4, 4, 4, QColor("#2d2d2d"))
    painter.end()
    return QBrush(tile)


def _margin_words(far: float | None) -> str:
    if far is None:
        return say("no ink")
    if far <= 0.02:
        return say("reaches the edge of the piece")
    return say("{far} from the edge of the piece", far=measure(round(far, 1)))
