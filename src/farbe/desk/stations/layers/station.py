"""Layers: each plate, where it comes from and what is done to it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import cv2
import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import (
    QColor,
    QHideEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QShowEvent,
)

from farbe.apart.asking import ask
from farbe.art.artwork import Pixels
from farbe.desk.closeup import CloseUp
from farbe.desk.images import (
    alpha_image,
    fitting,
    is_much_smaller,
    on_screen,
    paint_coverage,
    paint_picture,
    rgb_image,
)
from farbe.desk.marks import BARS, choice_pens, pattern
from farbe.desk.section import Section
from farbe.desk.stations.base import Desk, StationView
from farbe.desk.stations.closerworld import CloserWorld
from farbe.desk.stations.layers.edgepicture import paint_edge
from farbe.desk.stations.layers.form import LayersInspector
from farbe.desk.stations.layers.platestrip import PlateStrip, reduced, small_plate, stacked
from farbe.desk.stations.layers.regionpen import NEAR, RegionPen
from farbe.desk.stations.worlds import TELL
from farbe.desk.theme import font
from farbe.edits import stack as stack_edits
from farbe.follows.edges import EdgePixels
from farbe.follows.preview import Drawn, Preview, part_near
from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal, measure
from farbe.layout.outline import outline
from farbe.model.base import rgb
from farbe.model.layer import Layer
from farbe.model.piece import Ring
from farbe.model.printer import LayerKind
from farbe.model.source import Region
from farbe.model.treatment import Holes
from farbe.optics.anew import anew
from farbe.render.glimpse import Box, Glimpse
from farbe.render.raster import Report
from farbe.said import say
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid

#: Milliseconds after an edit in which its picture comes, or else the rest of it is drawn without.
LATEST_MS = 80
#: Pictures of plates that are kept: of coarse and fine plates as edits make them in turn.
PICTURES = 6
#: The line around a piece: its colour, and pixels.
EDGE = "#3c3c3c", 1.4
#: Behind inks, so that paper white shows as nothing; and light of which no ink takes anything.
GREY = 104
MOST_LIGHT = 65535


def rich(look: QImage, strength: float) -> QImage:
    """A faint copy of a picture."""
    faint = QImage(look.size(), QImage.Format.Format_ARGB32_Premultiplied)
    faint.fill(Qt.GlobalColor.transparent)
    painter = QPainter(faint)
    painter.setOpacity(strength)
    painter.drawImage(0, 0, look)
    painter.end()
    return faint


class PlateCanvas(CloserWorld):
    """The piece with the chosen layer's plate over a faint artwork."""

    INSET = QSize(262, 236)

    def __init__(self, desk: Desk, section: Section) -> None:
        super().__init__(
            desk, CloseUp(desk.results, desk.results, desk.workers, "close plates", self._asked)
        )
        self._section = section
        #: Pictures of plates, and these, so that no others take their place in memory.
        self._pictures: Kept[tuple[int, ...], tuple[QImage, Sequence[Plate]]] = Kept(PICTURES)
        #: Process plates and how they look on grey, of the last picture and the last coarse one.
        self._mixed: dict[bool, tuple[Sequence[Plate], Pixels]] = {}
        #: Faint artworks as large as they are shown, and what they are made of, for the same end.
        self._faint: Kept[tuple[object, ...], tuple[QImage, Pixels]] = Kept(PICTURES)
        #: Pictures of parts that are shown finer than the rest, made once for all paintings: of
        #: the place that is framed, and of what is in view.
        self._finer: Kept[tuple[Glimpse, str], tuple[QImage, QImage | None]] = Kept(2)
        self.setAccessibleName(say("The plate of the chosen layer"))
        self._pen = RegionPen()
        section.chosen.connect(self._chosen)
        desk.results.preview_changed.connect(self._new_preview)
        desk.results.edges_changed.connect(self.update)
        self._close_up.changed.connect(self.update)
        desk.picking.changed.connect(self._picking_changed)
        # The picture of an edit mostly comes at once, and is drawn then.
        self._without = QTimer(self, singleShot=True, interval=LATEST_MS)
        self._without.timeout.connect(self.update)
        desk.session.changed.connect(self._without.start)

    def _picking_changed(self) -> None:
        picking = self._desk.picking
        waits = picking.wants_colour or picking.wants_region
        self._pen = RegionPen()
        self.setCursor(Qt.CursorShape.CrossCursor if waits else Qt.CursorShape.ArrowCursor)
        if waits:
            self.setFocus()
        self.update()

    def colour_at(self, place: QPointF) -> str | None:
        """The artwork's colour at a place in mm; None where there is none."""
        for part in filter(None, (self.near(), self.whole())):
            at = part.pixel_at(place.x(), place.y())
            if at is not None:
                red, green, blue, alpha = part.artwork[at].tolist()
                return f"#{red:02x}{green:02x}{blue:02x}" if alpha >= 8 else None
        return None

    def pressed(self, place: QPointF) -> None:
        picking = self._desk.picking
        if picking.wants_colour:
            colour = self.colour_at(place)
            if colour is not None:
                picking.take_colour(colour)
            else:
                self._desk.session.said.emit(
                    say("There is no artwork at that place; pick another.")
                )
        elif picking.wants_region:
            self._pen = self._pen.press(place)

    def moved(self, event: QMouseEvent) -> None:
        if self._desk.picking.wants_region:
            self._pen = self._pen.move(self.millimetres(event.position()))
            self.update()

    def released(self) -> None:
        if self._desk.picking.wants_region:
            self._drawn(self._pen.release(NEAR / self.scale))

    def _drawn(self, step: tuple[RegionPen, Ring | None]) -> None:
        self._pen, ring = step
        if ring is not None:
            self._desk.picking.take_region(ring)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        picking, key = self._desk.picking, event.key()
        if not picking.wants_region and not picking.wants_colour:
            super().keyPressEvent(event)
        elif key == Qt.Key.Key_Escape:
            picking.end()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._drawn(self._pen.close())
        elif key == Qt.Key.Key_Backspace:
            self._drawn((self._pen.back(), None))
        else:
            super().keyPressEvent(event)

    def frame(self) -> QRectF:
        side = self.INSET.width() + 32 if self.width() > 720 else 0
        return QRectF(self.rect()).adjusted(26, 22, -26 - side, -22)

    def _chosen(self) -> None:
        if self.isVisible():
            self._say_plate()
            self.update()

    def _new_preview(self) -> None:
        """Show a picture; what nobody sees is not made ready."""
        if not self.isVisible():
            return
        self._without.stop()
        self._say_plate()
        preview = self._desk.results.preview
        if preview is None or preview.job != self._close_up.of:
            self._close_up.drop()
            if preview is not None and not preview.coarse:
                self._close_up.again()
        self.refit()

    def _say_plate(self) -> None:
        """How much of the piece the plate in view covers, for those who do not see it."""
        preview, name = self._desk.results.preview, self._section.choice
        plates = preview.plates_of(name) if preview is not None and name else []
        shares = ", ".join(
            say("{mean} percent", mean=f"{small_plate(plate)[1]:.0f}") for plate in plates
        )
        which = self._desk.results.shown_print[2]
        self.tell(
            say("{name} covers {shares}; {which}", name=name, shares=shares, which=which)
            if plates
            else which
        )

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._desk.results.make_beside(self._prepare, True)
        self._new_preview()
        if not self._fitted:
            self.view_moved()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._desk.results.make_beside(self._prepare, False)
        # Edits at other stations need not wait for what nobody sees.
        self._rest.stop()
        self._close_up.leave()

    def whole(self) -> Glimpse | None:
        return self._desk.results.preview

    def near(self) -> Glimpse | None:
        return self._close_up.part

    def _asked(self, job: Faced, box: Box, grid: Grid) -> Callable[[Report], Glimpse]:
        store = self._desk.session.store

        def work(report: Report) -> Glimpse:
            part: Glimpse = ask(part_near, job, box, grid, store, at_once=True, report=report)
            # On a large screen its pictures take longer than the window may be away.
            for layer in part.layers:
                if layer.name == self._section.choice:
                    self._pictures_of(part, layer)
            return part

        return work

    def _prepare(self, drawn: Drawn) -> None:
        for layer in drawn.layers:
            if layer.name == self._section.choice and drawn.plates_of(layer.name):
                self._plate_image(drawn, layer)
                if layer.kind is not LayerKind.COLOUR:
                    self._faint_artwork(drawn)

    def _box_of(self, drawn: Drawn) -> QRectF:
        width, height = drawn.size
        return self.box(-width / 2, -height / 2, width, height)

    def _plate_image(self, drawn: Drawn, layer: Layer) -> QImage:
        """A picture of a layer's plates, made once; most edits leave most plates as they are.

        It has less than twice as many pixels along a side as are seen: Qt takes many times as long
        to make it smaller whenever it is drawn.
        """
        plates = drawn.plates_of(layer.name)
        colour = layer.kind is LayerKind.COLOUR
        high, wide = plates[0].shape
        seen = self._box_of(drawn).width() * self.devicePixelRatioF()
        parts = 1 << max(0, int(wide / max(seen, 1.0)).bit_length() - 1)
        which = (*(id(plate) for plate in plates), parts)

        def made() -> tuple[QImage, Sequence[Plate]]:
            small = [reduced(plate, -(-wide // parts), -(-high // parts)) for plate in plates]
            if not colour:
                return alpha_image(small[0]), plates
            mixed = anew(small, self._mixed.get(drawn.coarse), inks_on_grey)
            self._mixed[drawn.coarse] = small, mixed
            return rgb_image(mixed), plates

        return self._pictures.get(which, made)[0]

    def _faint_artwork(self, drawn: Drawn) -> QImage:
        """The artwork as it lies under a plate, made once at each zoom."""
        artwork, target = drawn.artwork, on_screen(self._box_of(drawn), self)

        def made() -> tuple[QImage, Pixels]:
            return fitting(rich(rgb_image(artwork), 0.28), target), artwork

        # Where it is not made smaller it is the same at each zoom.
        smaller = target.toTuple() if is_much_smaller(target, artwork.shape[1]) else None
        return self._faint.get((id(artwork), smaller), made)[0]

    def paint_world(self, painter: QPainter) -> None:
        job, preview = self._desk.session.job, self._desk.results.preview
        if job is None:
            return
        shape = outline(job.piece.shape)
        edge = self.shape_path(shape, self.at(0, 0))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#686868"))
        painter.drawPath(edge)
        if preview is None:
            self.paint_edge(painter, shape, *EDGE)
            return
        box = self._box_of(preview)
        layer = stack_edits.layer_named(job, self._section.choice)
        if layer is not None and preview.plates_of(layer.name):
            if layer.kind is LayerKind.COLOUR:
                self._paint_colour(painter, preview, box, layer)
            else:
                paint_picture(painter, box, self._faint_artwork(preview))
                cover = self._plate_image(preview, layer)
                paint_coverage(painter, box, cover, pattern(layer.kind))
            for part in filter(None, (self._desk.results.place_pixels, self.near())):
                self._paint_part(painter, part, layer, edge)
        elif layer is not None:
            painter.setFont(font(14))
            painter.setPen(QColor("#f2f2f2"))
            painter.drawText(
                box, Qt.AlignmentFlag.AlignCenter, say("{layer} is switched off", layer=layer.words)
            )
        self.paint_edge(painter, shape, *EDGE)
        self.paint_places(painter, about=layer.name if layer is not None else None)
        self._paint_regions(painter, layer)
        framed = self._desk.results.place is not None
        white = layer is not None and layer.kind is LayerKind.WHITE and layer.on
        edges = self._desk.results.edges
        if layer is not None and white and edges is not None and not framed:
            self._paint_edge(painter, edges.worst, layer)
        self.paint_scale(painter)

    def _paint_regions(self, painter: QPainter, layer: Layer | None) -> None:
        """Drawn regions of the layer, the one that is being drawn, and how it is done."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        rings = [r for region in regions_of(layer) for r in region.rings] if layer else []
        for pen in choice_pens(1.3, Qt.PenStyle.DashLine):
            painter.setPen(pen)
            for ring in rings:
                painter.drawPolygon(QPolygonF([self.at(x, y) for x, y in ring]))
        if not self._desk.picking.wants_region:
            return
        self._pen.paint(painter, self)
        painter.setFont(font(12.5))
        painter.setPen(QColor("#f4f4f4"))
        painter.drawText(
            QPointF(16, self.height() - 14),
            say(
                "Drag a rectangle, or click corner by corner and end on the first one or with "
                "Enter."
            ),
        )

    def _pictures_of(self, part: Glimpse, layer: Layer) -> tuple[QImage, QImage | None]:
        """What lies under a layer's coverage, and that; of colour both in one."""

        def made() -> tuple[QImage, QImage | None]:
            plates = part.plates_of(layer.name)
            if layer.kind is LayerKind.COLOUR:
                return rgb_image(inks_on_grey(plates)), None
            return rich(rgb_image(part.artwork), 0.28), alpha_image(plates[0])

        return self._finer.get((part, layer.name), made)

    def _paint_part(
        self, painter: QPainter, part: Glimpse, layer: Layer, edge: QPainterPath
    ) -> None:
        """A part that is finer than the rest, pixel by pixel where these can be told."""
        if not part.plates_of(layer.name):
            return
        under, cover = self._pictures_of(part, layer)
        box = self.box(part.box.left, part.box.bottom, part.box.width, part.box.height)
        smooth = self.scale < TELL * part.grid.per_mm_x
        painter.save()
        painter.setClipPath(edge)
        painter.fillRect(box, QColor("#686868"))
        paint_picture(painter, box, under, smooth=smooth)
        if cover is not None:
            paint_coverage(painter, box, cover, pattern(layer.kind), smooth=smooth)
        painter.restore()

    def _paint_colour(self, painter: QPainter, preview: Preview, box: QRectF, layer: Layer) -> None:
        """The four process plates together."""
        picture = self._plate_image(preview, layer)
        painter.save()
        painter.setClipPath(self.shape_path(outline(preview.job.piece.shape), self.at(0, 0)))
        paint_picture(painter, box, picture)
        painter.restore()

    def _paint_edge(self, painter: QPainter, edge: EdgePixels, layer: Layer) -> None:
        """Output pixels at one edge: white ink, the rim of colour alone, no ink."""
        if self.width() <= 720:
            return
        right, top = self.width() - 18, 18
        inset = QRectF(right - self.INSET.width(), top, self.INSET.width(), self.INSET.height())
        spot = self.at(edge.x, edge.y)
        if self.rect().contains(spot.toPoint()):
            painter.setPen(QPen(QColor("#ffffff"), 1.3))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(spot, 9, 9)
            painter.drawLine(spot + QPointF(9, 0), QPointF(inset.left(), inset.center().y()))
        painter.fillRect(inset, QColor("#3a3a3a"))
        picture = QRectF(inset.left(), inset.top(), inset.width(), inset.height() - 34)
        paint_edge(painter, picture, edge.colour, edge.white, edge.pixel)
        painter.setPen(QColor("#f4f4f4"))
        painter.setFont(font(12))
        x, y = (layer.choke / side for side in edge.pixel)
        words = say("Rim {choke}", choke=measure(layer.choke))
        bare = int(edge.white.sum(dtype="int64")) < 0.05 * int(edge.colour.sum(dtype="int64"))
        if not layer.choke:
            words = say("No rim: white reaches the edge")
        elif not bare:
            words += say(" = {x} × {y} output pixels", x=decimal(x, 1), y=decimal(y, 1))
        painter.drawText(
            QRectF(inset.left() + 10, picture.bottom(), inset.width() - 20, 34),
            Qt.AlignmentFlag.AlignVCenter,
            say("{words}, no white is left", words=words) if bare else words,
        )
        painter.setPen(QPen(QColor("#dcdcdc"), 1))
        painter.drawRect(inset)


def regions_of(layer: Layer) -> list[Region]:
    """What is drawn by hand in a layer: its sources, and what its holes spare."""
    solid = [t.solid for t in layer.treatments if isinstance(t, Holes)]
    return [one for one in (*layer.sources, *solid) if isinstance(one, Region)]


def inks_on_grey(plates: Sequence[Plate]) -> Pixels:
    """Process plates as filters over a grey: no ink shows as the grey itself."""
    levels = np.arange(256) / 255.0
    # Little ink is a thin veil of it.
    covered = np.minimum(1.0, levels * 2)
    most = np.maximum.reduce(list(plates))
    veil = cv2.LUT(most, _in_16_bits(covered))
    bare = cv2.LUT(most, _in_16_bits((1 - covered) * GREY / 255.0))
    bands = []
    for band in range(3):
        paper = veil
        for plate, shown in zip(plates, BARS, strict=True):
            light = 1 - levels * (1 - rgb(shown)[band] / 255.0)
            paper = cv2.multiply(paper, cv2.LUT(plate, _in_16_bits(light)), scale=1 / MOST_LIGHT)
        bands.append(cv2.convertScaleAbs(cv2.add(paper, bare), alpha=255 / MOST_LIGHT))
    return np.asarray(cv2.merge(bands), np.uint8)


def _in_16_bits(shares: npt.NDArray[np.float64]) -> npt.NDArray[np.uint16]:
    return np.rint(MOST_LIGHT * shares).astype(np.uint16)


def layers_station(desk: Desk, section: Section) -> StationView:
    """The station's picture and inspector; the section is the window's."""
    canvas, strip = PlateCanvas(desk, section), PlateStrip(desk)
    strip.picked.connect(lambda name, _: section.choose(name))
    section.chosen.connect(lambda name: strip.mark(name))
    desk.results.preview_changed.connect(lambda: strip.mark(section.choice))
    strip.mark(section.choice)
    return StationView(stacked(desk, canvas, strip), LayersInspector(desk, section))
