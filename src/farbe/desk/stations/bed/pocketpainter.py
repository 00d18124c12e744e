"""Draws pockets with their prints: each different one once, then copies of that picture."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache
from math import ceil, floor

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QPainter,
    QPainterPath,
    QPen,
    QPixmap,
    QPolygonF,
    QTransform,
)

from farbe.desk.canvas import Canvas, path_in_mm
from farbe.desk.images import paint_picture, rgb_image
from farbe.desk.marks import choice_pens
from farbe.desk.stations.base import Desk
from farbe.desk.stations.piece.canvas import surface_brush
from farbe.follows.pictures import Stamp
from farbe.layout.faced import Faced
from farbe.layout.guide import guide_ink, guide_reach, guide_shape
from farbe.layout.laid import LaidPiece, allotted
from farbe.layout.lettering import set_box
from farbe.layout.outline import outline
from farbe.layout.placing import artwork_box
from farbe.layout.pockets import footprint, piece_on_bed, quarter_turns
from farbe.layout.prints import PocketPrint, one_print
from farbe.model.text import TextBox
from farbe.render.marks import marks_shape

#: Pixels; larger pockets are few on the screen and are drawn one by one.
LARGEST_CELL = 400
#: Capitals lower than so many pixels are not worth drawing.
LEAST_TYPE = 3.5
#: Frames of text boxes lower than so many pixels only hide the text.
LEAST_FRAME = 14.0
#: Pixels along a side beyond which a stamp shows nothing more than the picture it is made of.
LARGEST_STAMP = 1800


#: A pocket, and where in the widget its middle is.
Shown = tuple[LaidPiece, float, float]


class _Cell:
    """A picture, and where its middle is in pixels of the screen."""

    def __init__(self, picture: QPixmap) -> None:
        self.picture = picture
        self.middle = QPointF(picture.width(), picture.height()) / picture.devicePixelRatio() / 2


class PocketPainter:
    """Keeps the pictures of pockets for one job at one zoom."""

    def __init__(self, desk: Desk, canvas: Canvas) -> None:
        self._desk, self._canvas = desk, canvas
        #: Lines in place of pictures, to check margins.
        self.outlines = False
        #: What stamps, words and whole pockets depend on besides the prints that they show.
        self._lie: object = None
        self._words: object = None
        self._looks: object = None
        self._drawn_of: Mapping[PocketPrint, Stamp] = {}
        #: At which zoom finer pictures of which prints were asked for.
        self._looked_at: object = None
        self._job: Faced | None = None
        self._prints: Mapping[int, PocketPrint] = {}
        self._kinds: dict[int, tuple[int, tuple[TextBox, ...]]] = {}
        self._plain: list[PocketPrint | None] = [None]
        self._piece, self._guide, self._marks = QPainterPath(), QPainterPath(), QPainterPath()
        self._cells: dict[PocketPrint | None, _Cell] = {}
        #: Those of ``_plain``, until one of them looks otherwise.
        self._in_order: list[_Cell | None] = []
        self._stamps: dict[PocketPrint, QPixmap] = {}
        self._lines: dict[tuple[TextBox, ...], _Cell] = {}

    def paint(self, painter: QPainter, job: Faced, shown: Sequence[Shown]) -> None:
        """Draw the pockets that are on, at their places in the widget."""
        self._renew(job)
        cells = self._in_order = self._in_order or self._cells_of(job)
        # All pictures of pockets are equally large. Where pixels are those of the screen they
        # come to lie on whole ones, which is told here as making a thousand points takes longer.
        middle = next((cell.middle for cell in cells if cell is not None), QPointF(0, 0))
        left, above = 0.5 - middle.x(), 0.5 - middle.y()
        whole = self._canvas.devicePixelRatioF() == 1.0
        seen = set[int]()
        # The words differ from pocket to pocket, how high they are does not.
        lettered = self._can_be_read(job.texts)
        for piece, x, y in shown:
            pocket = piece.pocket
            index, texts = self._kinds.get(pocket.number, (-1, ()))
            cell = cells[index]
            seen.add(index)
            if cell is not None and not pocket.turn:
                # Most pockets by far, so it is done with few calls.
                if whole:
                    painter.drawPixmap(floor(x + left), floor(y + above), cell.picture)
                else:
                    painter.drawPixmap(QPointF(x, y) - middle, cell.picture)
                if lettered and texts:
                    self._paint_texts(painter, job, texts, QPointF(x, y))
                continue
            painter.save()
            painter.translate(x, y)
            if pocket.turn:
                painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
                painter.rotate(-pocket.turn)
            if cell is None:
                self._paint_cell(painter, job, self._plain[index], QPointF(0, 0))
            else:
                painter.drawPixmap(-middle, cell.picture)
            if lettered and texts:
                self._paint_texts(painter, job, texts, QPointF(0, 0))
            painter.restore()
        now = (id(self._drawn_of), self._canvas.scale, id(self._prints), seen,
               job.piece.shape, job.bleed, job.printer)  # fmt: skip
        if now == self._looked_at:
            # Prints are compared when others are shown, and not at each drawing.
            return
        self._looked_at = now
        prints = [what for at, what in enumerate(self._plain) if what is not None and at in seen]
        per_mm = self._canvas.scale * self._canvas.devicePixelRatioF()
        self._desk.results.look_closer(per_mm, prints, ())

    def forget(self) -> None:
        """Draw everything anew the next time."""
        self._lie = self._words = self._looks = None

    def _renew(self, job: Faced) -> None:
        """Forget pictures of pockets that look otherwise, or at another zoom.

        Those of a jig that is only moved stay; so do those whose print is the same. What is printed
        and the words stay where only marks or guide are others.
        """
        stamps = self._desk.results.stamps
        if job is not self._job:
            self._job = job
            self._sort_out(job)
        lie = (self._canvas.scale, job.jig.turned, job.came_up)
        words = (lie, job.piece.shape, job.printer)
        looks = (words, self.outlines, job.piece, job.guide, job.marks, job.bleed,
                 job.jig.board.colour, job.placing.margin)  # fmt: skip
        if lie != self._lie:
            self._lie, self._stamps = lie, {}
        if words != self._words:
            self._words, self._lines = words, {}
        if looks != self._looks:
            self._looks, self._cells, self._in_order = looks, {}, []
        if stamps is not self._drawn_of:
            self._in_order = []
            gone = [what for what, stamp in self._drawn_of.items() if stamps.get(what) is not stamp]
            for what in gone:
                self._cells.pop(what, None)
                self._stamps.pop(what, None)
            for what in stamps.keys() - self._drawn_of.keys():
                self._cells.pop(what, None)
        self._drawn_of = stamps

    def _sort_out(self, job: Faced) -> None:
        """The different prints without their texts, and which of them each pocket has.

        The last one is no print at all. Prints are compared here and not at each drawing.
        """
        piece = piece_on_bed(job)
        self._piece, self._guide = path_in_mm(piece), path_in_mm(guide_shape(job.guide, piece))
        self._marks = path_in_mm(marks_shape(job))
        prints = allotted(job).prints
        if prints is self._prints:
            # Most edits leave them as they are.
            return
        self._prints = prints
        places: dict[PocketPrint | None, int] = {}
        # Prints that are alike are mostly one and the same, which is told without looking at them.
        known: dict[int, int] = {}
        self._kinds = {}
        for number, what in prints.items():
            plain = what.plain
            if id(plain) not in known:
                known[id(plain)] = places.setdefault(plain, len(places))
            self._kinds[number] = known[id(plain)], what.texts
        self._plain, self._in_order = [*places, None], []
        # Words that are typed over are not drawn again.
        drawn = {texts for _, texts in self._kinds.values()}
        self._lines = {texts: line for texts, line in self._lines.items() if texts in drawn}

    def _picture(self, width: float, height: float) -> QPixmap:
        ratio = self._canvas.devicePixelRatioF()
        picture = QPixmap(QSize(ceil(width), ceil(height)) * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        return picture

    def _cells_of(self, job: Faced) -> list[_Cell | None]:
        """A picture for each kind of pocket; None where they are too large to be worth one."""
        marks = job.marks
        reach = max(marks.distance, job.bleed) + marks.length if marks.trim else marks.line
        room = 2 * (max(guide_reach(job.guide), reach) + 1.0)
        scale = self._canvas.scale
        width, height = ((side + room) * scale for side in footprint(job.jig, job.piece.shape))
        if max(width, height) > LARGEST_CELL:
            return [None] * len(self._plain)
        for what in self._plain:
            if what not in self._cells:
                self._cells[what] = self._cell(job, what, self._picture(width, height))
        return [self._cells[what] for what in self._plain]

    def _cell(self, job: Faced, what: PocketPrint | None, picture: QPixmap) -> _Cell:
        """One pocket at the present zoom, drawn in the middle of a picture."""
        cell = _Cell(picture)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        self._paint_cell(painter, job, what, cell.middle)
        painter.end()
        return cell

    def _paint_cell(
        self, painter: QPainter, job: Faced, what: PocketPrint | None, at: QPointF
    ) -> None:
        """A piece with its print and its guide around a widget position."""
        here = QPointF(0, 0)
        ink = QColor(guide_ink(job).shown)
        painter.translate(at)
        ring = self._canvas.scaled_path(self._piece, here)
        if self.outlines:
            self._paint_lines(painter, job, what, ring)
            painter.translate(-at)
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(surface_brush(job.piece.surface))
        painter.drawPath(ring)
        stamp = None if what is None else self._desk.results.stamps.get(what)
        if stamp is not None and what is not None:
            self._paint_stamp(painter, job, ring, stamp, what)
        elif what is None:
            painter.setBrush(QBrush(QColor(128, 128, 128, 150), Qt.BrushStyle.FDiagPattern))
            painter.drawPath(ring)
        # A line thinner than a pixel of the screen is drawn all the same.
        painter.setPen(QPen(ink, 0.7))
        painter.setBrush(ink)
        painter.drawPath(self._canvas.scaled_path(self._guide, here))
        if not self._marks.isEmpty():
            painter.setPen(QPen(QColor("#141414"), 0.7))
            painter.setBrush(QColor("#141414"))
            painter.drawPath(self._canvas.scaled_path(self._marks, here))
        painter.translate(-at)

    def _paint_lines(
        self, painter: QPainter, job: Faced, what: PocketPrint | None, ring: QPainterPath
    ) -> None:
        """The edges of the piece and of its artwork, and where ink may lie."""
        scale = self._canvas.scale
        dark = QColor(job.jig.board.colour).lightnessF() < 0.45
        piece, allowed_, art = (
            ("#ffffff", "#e8d9a8", "#f2c744") if dark else ("#141414", "#5c5c5c", "#8c1d40")
        )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(piece), 1.2))
        painter.drawPath(ring)
        grow = -job.placing.margin if job.placing.margin else job.bleed
        if grow:
            painter.setPen(QPen(QColor(allowed_), 1, Qt.PenStyle.DotLine))
            allowed = path_in_mm(outline(job.piece.shape, grow=grow))
            painter.save()
            painter.rotate(-90 * quarter_turns(job))
            painter.drawPath(self._canvas.scaled_path(allowed, QPointF(0, 0)))
            painter.restore()
        lies = artwork_box(one_print(job, what)) if what is not None else None
        if lies is not None:
            painter.save()
            painter.rotate(-90 * quarter_turns(job))
            painter.translate(lies.x * scale, -lies.y * scale)
            painter.rotate(-lies.rotation)
            wide, high = lies.width * scale, lies.height * scale
            painter.setPen(QPen(QColor(art), 1.2, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(-wide / 2, -high / 2, wide, high))
            painter.restore()

    def _paint_stamp(
        self, painter: QPainter, job: Faced, ring: QPainterPath, stamp: Stamp, what: PocketPrint
    ) -> None:
        picture = self._stamp(job, stamp, what)
        across = quarter_turns(job) % 2
        size = stamp.size[::-1] if across else stamp.size
        width, height = (side * self._canvas.scale for side in size)
        target = QRectF(-width / 2, -height / 2, width, height)
        painter.save()
        if picture.width() / picture.devicePixelRatio() < width - 1:
            # Zoomed in beyond the stamp: clip and stretch instead of a brush.
            painter.setClipPath(ring, Qt.ClipOperation.IntersectClip)
            painter.drawPixmap(target, picture, QRectF(picture.rect()))
        else:
            painter.setBrush(QBrush(picture))
            painter.setBrushOrigin(target.topLeft())
            painter.drawPath(ring)
        painter.restore()

    def _stamp(self, job: Faced, stamp: Stamp, what: PocketPrint) -> QPixmap:
        """One piece with its print at the present zoom, as it lies."""
        if what in self._stamps:
            return self._stamps[what]
        ratio, scale = self._canvas.devicePixelRatioF(), self._canvas.scale
        size = QSize(max(1, round(stamp.size[0] * scale)), max(1, round(stamp.size[1] * scale)))
        size = size.boundedTo(QSize(LARGEST_STAMP, LARGEST_STAMP))
        picture = QPixmap(size * ratio)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        paint_picture(painter, QRectF(picture.rect()), rgb_image(stamp.look))
        painter.end()
        turns = quarter_turns(job)
        if turns:
            picture = picture.transformed(QTransform().rotate(-90 * turns))
        picture.setDevicePixelRatio(ratio)
        self._stamps[what] = picture
        return picture

    # lettering

    def _can_be_read(self, texts: tuple[TextBox, ...]) -> bool:
        """Whether any of them is high enough at the present zoom to be worth drawing."""
        scale = self._canvas.scale
        return any(min(box.size, box.height) * scale >= LEAST_TYPE for box in texts)

    def _paint_texts(
        self, painter: QPainter, job: Faced, texts: tuple[TextBox, ...], at: QPointF
    ) -> None:
        if not self._can_be_read(texts):
            return
        scale = self._canvas.scale
        width, height = (side * scale + 2 for side in footprint(job.jig, job.piece.shape))
        if max(width, height) > LARGEST_CELL:
            self._draw_texts(painter, job, texts, at)
            return
        if texts not in self._lines:
            picture = self._picture(width, height)
            line = _Cell(picture)
            inner = QPainter(picture)
            inner.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._draw_texts(inner, job, texts, line.middle)
            inner.end()
            self._lines[texts] = line
        line = self._lines[texts]
        painter.drawPixmap(at - line.middle, line.picture)

    def _draw_texts(
        self, painter: QPainter, job: Faced, texts: tuple[TextBox, ...], at: QPointF
    ) -> None:
        painter.save()
        painter.translate(at)
        painter.rotate(-90 * quarter_turns(job))
        painter.scale(self._canvas.scale, -self._canvas.scale)
        painter.setPen(Qt.PenStyle.NoPen)
        for box in texts:
            painter.setBrush(QColor(type_colour(job, box)))
            painter.drawPath(type_path(box, self._desk.session.store.font(box)))
        painter.restore()

    def paint_boxes(self, painter: QPainter, job: Faced, turn: float, at: QPointF) -> None:
        """The frames of the text boxes in one pocket that is turned by degrees."""
        painter.save()
        painter.translate(at)
        painter.rotate(-90 * quarter_turns(job) - turn)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        scale = self._canvas.scale
        for box in job.texts:
            if box.height * scale < LEAST_FRAME:
                continue
            painter.save()
            painter.translate(box.x * scale, -box.y * scale)
            painter.rotate(-box.rotation)
            wide, high = box.width * scale, box.height * scale
            for pen in choice_pens(1.2, Qt.PenStyle.DashLine):
                painter.setPen(pen)
                painter.drawRect(QRectF(-wide / 2, -high / 2, wide, high))
            painter.restore()
        painter.restore()


def type_colour(job: Faced, box: TextBox) -> str:
    """How type is shown, ``#rrggbb``: in its colour, or in that of its ink."""
    inks = {ink.name: ink.shown for ink in job.printer.inks}
    return box.colour if box.ink is None else inks.get(box.ink, box.colour)


@lru_cache(maxsize=2048)
def type_path(box: TextBox, font_data: bytes) -> QPainterPath:
    """The outlines of a box's line in mm, y up."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    for rings in set_box(box, font_data):
        for ring in rings:
            path.addPolygon(QPolygonF([QPointF(x, y) for x, y in ring.tolist()]))
            path.closeSubpath()
    return path
