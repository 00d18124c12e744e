"""Bed: where the pieces lie, and what shows the places."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
)
from PySide6.QtWidgets import QFileDialog, QPushButton, QWidget

from farbe.desk.canvas import Canvas
from farbe.desk.fields import ChoiceField, ColourField, Form, NumberField
from farbe.desk.images import paint_picture, rgb_image
from farbe.desk.results import outline_points
from farbe.desk.stations.base import (
    Desk,
    StationView,
    scrolled,
    with_artwork,
    with_board,
    with_guide,
    with_jig,
)
from farbe.desk.stations.piece import surface_brush
from farbe.desk.theme import font, theme
from farbe.layout.pockets import Pocket, centred_jig, pockets
from farbe.model.job import Job
from farbe.plan.sentence import number

RULER = 30


class BedCanvas(Canvas):
    """The bed in plan with rulers from the datum; the artwork as it is read, not mirrored."""

    pocket_chosen = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.chosen = 1
        self._stamp: QPixmap | None = None
        self._grab: tuple[QPointF, Job] | None = None
        self.setAccessibleName("The bed in plan")
        desk.session.changed.connect(self.refit)
        desk.results.preview_changed.connect(self._new_preview)

    def world(self) -> QRectF:
        job = self._desk.session.job
        if job is None:
            return super().world()
        return QRectF(0, 0, job.printer.bed_width, job.printer.bed_height)

    def frame(self) -> QRectF:
        return QRectF(self.rect()).adjusted(RULER + 26, RULER + 16, -26, -40)

    def _new_preview(self) -> None:
        self._stamp = None
        self.update()

    def _piece_stamp(self, job: Job) -> QPixmap | None:
        """One piece with its print at the present zoom, made once for all pockets."""
        preview = self._desk.results.preview
        if preview is None:
            return None
        size = QSize(
            max(1, round(preview.size[0] * self.scale)), max(1, round(preview.size[1] * self.scale))
        )
        ratio = self.devicePixelRatioF()
        # Beyond the preview's own pixels a larger stamp shows nothing more.
        size = size.boundedTo(QSize(1800, 1800))
        if self._stamp is None or self._stamp.size() != size * ratio:
            stamp = QPixmap(size * ratio)
            stamp.setDevicePixelRatio(ratio)
            stamp.fill(Qt.GlobalColor.transparent)
            painter = QPainter(stamp)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            box = QRectF(QPointF(0, 0), size.toSizeF())
            paint_picture(painter, box, rgb_image(preview.look))
            painter.end()
            self._stamp = stamp
        return self._stamp

    def paint_world(self, painter: QPainter) -> None:
        job = self._desk.session.job
        if job is None:
            return
        bed = self.box(0, 0, job.printer.bed_width, job.printer.bed_height)
        painter.setPen(QPen(QColor("#262626"), 1.5))
        painter.setBrush(QColor("#a4a4a4"))
        painter.drawRect(bed)
        board = job.jig.board
        plate = self.box(board.x, board.y, board.width, board.height)
        painter.setPen(QPen(QColor("#5d5d5d"), 1))
        painter.setBrush(QColor(board.colour))
        painter.drawRect(plate)
        painter.setFont(font(11.5))
        dark = QColor(board.colour).lightnessF() < 0.5
        painter.setPen(QColor("#f0f0f0" if dark else "#3a3a3a"))
        painter.drawText(
            plate.bottomLeft() + QPointF(8, -7),
            f"{job.jig.name}, board {number(board.width)} × {number(board.height)} mm",
        )
        self._paint_pockets(painter, job)
        self._paint_datum(painter)
        self._paint_rulers(painter)

    def _paint_pockets(self, painter: QPainter, job: Job) -> None:
        ring = [QPointF(x * self.scale, -y * self.scale) for x, y in outline_points(job)]
        shape, stamp = QPolygonF(ring), self._piece_stamp(job)
        grow = (job.guide.distance + job.guide.line_width / 2) * 2
        visible = QRectF(self.rect())
        ink = next(i.shown for i in job.printer.inks if i.name == job.guide.ink)
        figures = font(max(9, min(13, job.piece.shape.width * self.scale * 0.16)))
        for pocket in pockets(job.jig, job.piece.shape):
            centre = self.at(pocket.x, pocket.y)
            half_w = job.piece.shape.width * self.scale / 2
            half_h = job.piece.shape.height * self.scale / 2
            around = QRectF(centre.x() - half_w, centre.y() - half_h, 2 * half_w, 2 * half_h)
            if not visible.intersects(around.adjusted(-9, -9, 9, 9)):
                continue
            painter.save()
            painter.translate(centre)
            if pocket.on:
                self._paint_piece(painter, job, shape, stamp)
                sx = 1 + grow / job.piece.shape.width
                sy = 1 + grow / job.piece.shape.height
                painter.scale(sx, sy)
                pen = QPen(QColor(ink), max(1.0, job.guide.line_width * self.scale))
            else:
                pen = QPen(QColor("#4c4c4c"), 1, Qt.PenStyle.DashLine)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolygon(shape)
            painter.restore()
            painter.setFont(figures)
            dark = QColor(job.jig.board.colour).lightnessF() < 0.5
            painter.setPen(QColor("#f0f0f0" if dark else "#2c2c2c"))
            painter.drawText(around.topLeft() + QPointF(0, 5), str(pocket.number))
            if pocket.number == self.chosen:
                painter.setPen(QPen(QColor(theme().accent), 2.5))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(around.adjusted(-6, -6, 6, 6), 4, 4)

    def _paint_piece(
        self, painter: QPainter, job: Job, shape: QPolygonF, stamp: QPixmap | None
    ) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(surface_brush(job.piece.surface))
        painter.drawPolygon(shape)
        preview = self._desk.results.preview
        if stamp is None or preview is None:
            return
        width, height = (side * self.scale for side in preview.size)
        target = QRectF(-width / 2, -height / 2, width, height)
        painter.save()
        if stamp.width() / stamp.devicePixelRatio() < width - 1:
            # Zoomed in beyond the stamp: clip and stretch instead of a brush.
            path = QPainterPath()
            path.addPolygon(shape)
            path.closeSubpath()
            painter.setClipPath(path, Qt.ClipOperation.IntersectClip)
            painter.drawPixmap(target, stamp, QRectF(stamp.rect()))
        else:
            painter.setBrush(stamp)
            painter.setBrushOrigin(target.topLeft())
            painter.drawPolygon(shape)
        painter.restore()

    def _paint_datum(self, painter: QPainter) -> None:
        datum = self.at(0, 0)
        painter.setPen(QPen(QColor("#d0453a"), 3))
        painter.drawLine(datum, datum + QPointF(34, 0))
        painter.drawLine(datum, datum - QPointF(0, 34))
        painter.setBrush(QColor("#d0453a"))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawEllipse(datum, 5, 5)
        painter.setFont(font(12, bold=True))
        painter.setPen(QColor("#ffffff"))
        painter.drawText(datum + QPointF(10, 20), "datum")

    def _paint_rulers(self, painter: QPainter) -> None:
        t, width, height = theme(), self.width(), self.height()
        painter.fillRect(QRectF(0, 0, width, RULER), QColor(t.paper))
        painter.fillRect(QRectF(0, 0, RULER + 6, height), QColor(t.paper))
        painter.setFont(font(11))
        painter.setPen(QColor(t.faint))
        step = next((s for s in (1, 2, 5, 10, 20, 50, 100, 200, 500) if s * self.scale >= 44), 1000)
        low, high = (
            self.millimetres(QPointF(RULER, height)),
            self.millimetres(QPointF(width, RULER)),
        )
        for i in range(int(low.x() // step) + 1, int(high.x() // step) + 1):
            x = self.at(i * step, 0).x()
            painter.drawLine(QPointF(x, RULER - 6), QPointF(x, RULER))
            painter.drawText(
                QRectF(x - 30, 2, 60, RULER - 10), Qt.AlignmentFlag.AlignCenter, str(i * step)
            )
        for i in range(int(low.y() // step) + 1, int(high.y() // step) + 1):
            y = self.at(0, i * step).y()
            if y > RULER + 8:
                painter.drawLine(QPointF(RULER, y), QPointF(RULER + 6, y))
                painter.drawText(
                    QRectF(0, y - 9, RULER - 3, 18),
                    Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                    str(i * step),
                )
        painter.fillRect(QRectF(0, 0, RULER + 6, RULER), QColor(t.paper))
        painter.drawText(QRectF(0, 0, RULER + 6, RULER), Qt.AlignmentFlag.AlignCenter, "mm")

    def pocket_at(self, place: QPointF) -> Pocket | None:
        job = self._desk.session.job
        if job is None:
            return None
        shape = job.piece.shape
        for pocket in pockets(job.jig, shape):
            if (
                abs(place.x() - pocket.x) <= shape.width / 2
                and abs(place.y() - pocket.y) <= shape.height / 2
            ):
                return pocket
        return None

    def choose(self, number_: int) -> None:
        self.chosen = number_
        self.pocket_chosen.emit()
        self.update()

    def pressed(self, place: QPointF) -> None:
        pocket, job = self.pocket_at(place), self._desk.session.job
        if pocket is not None and job is not None:
            self.choose(pocket.number)
            self._grab = (place, job)

    def moved(self, event: QMouseEvent) -> None:
        if self._grab is None:
            return
        start, job = self._grab
        now = self.millimetres(event.position())
        if (now - start).manhattanLength() * self.scale < 4:
            return
        x = round(job.jig.first_x + now.x() - start.x(), 1)
        y = round(job.jig.first_y + now.y() - start.y(), 1)
        self._desk.session.edit(
            "Move the grid", lambda j: with_jig(j, first_x=x, first_y=y), group="drag grid"
        )

    def released(self) -> None:
        if self._grab is not None:
            self._desk.session.end_group()
        self._grab = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        way = ways.get(Qt.Key(event.key()))
        if way is not None:
            far = 1.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.1
            self._desk.session.edit(
                "Nudge the grid",
                lambda j: with_jig(
                    j,
                    first_x=round(j.jig.first_x + way[0] * far, 3),
                    first_y=round(j.jig.first_y + way[1] * far, 3),
                ),
                group="nudge grid",
            )
        elif event.key() == Qt.Key.Key_X:
            switch_pocket(self._desk, self.chosen)
        else:
            super().keyPressEvent(event)


def switch_pocket(desk: Desk, pocket: int) -> None:
    """Switch a pocket off or on."""
    desk.session.edit(
        f"Switch pocket {pocket}", lambda j: with_jig(j, off=j.jig.off ^ frozenset({pocket}))
    )


class Tray(QWidget):
    """The artwork under the bed; files may be dropped on it."""

    dropped = Signal(object)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.setAcceptDrops(True)
        self.setFixedHeight(130)
        self.setAccessibleName("Artwork")
        self._choose = QPushButton("Choose a file…", self)
        self._choose.clicked.connect(self._ask)
        desk.results.preview_changed.connect(self.update)
        desk.session.changed.connect(self.update)

    def _ask(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Artwork", "", "Pictures (*.png *.jpg *.jpeg *.tif *.tiff)"
        )
        if name:
            self.dropped.emit(Path(name))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        urls = event.mimeData().urls()
        if urls:
            self.dropped.emit(Path(urls[0].toLocalFile()))

    def paintEvent(self, _: QPaintEvent) -> None:
        t, job, preview = theme(), self._desk.session.job, self._desk.results.preview
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(t.paper))
        painter.setPen(QColor(t.line))
        painter.drawLine(0, 0, self.width(), 0)
        painter.setFont(font(13, bold=True))
        painter.setPen(QColor(t.text))
        painter.drawText(QPointF(16, 22), "Artwork")
        painter.setFont(font(12.5))
        painter.setPen(QColor(t.faint))
        painter.drawText(QPointF(74, 22), "drop a picture here to print it in every pocket")
        art = job.artwork if job else None
        card = QRectF(16, 34, 330, 84)
        painter.setPen(QPen(QColor(t.accent if art else t.line), 1.5 if art else 1))
        painter.setBrush(QColor(t.field))
        painter.drawRect(card)
        if art is None or job is None:
            painter.setPen(QColor(t.faint))
            painter.drawText(card, Qt.AlignmentFlag.AlignCenter, "No artwork yet")
        else:
            self._paint_card(painter, card, job, preview is not None)
        self._choose.move(round(card.right()) + 16, round(card.top()))
        painter.end()

    def _paint_card(self, painter: QPainter, card: QRectF, job: Job, ready: bool) -> None:
        t, art, preview = theme(), job.artwork, self._desk.results.preview
        thumb = QRectF(card.left() + 8, card.top() + 8, 68, 68)
        painter.fillRect(thumb, QColor("#767676"))
        if ready and preview is not None:
            scale = 68 / max(preview.size)
            inner = QRectF(0, 0, preview.size[0] * scale, preview.size[1] * scale)
            inner.moveCenter(thumb.center())
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            paint_picture(painter, inner, rgb_image(preview.artwork))
        if art is None:
            return
        left = thumb.right() + 14
        painter.setFont(font(13, bold=True))
        painter.setPen(QColor(t.text))
        room = card.right() - left - 8
        name = painter.fontMetrics().elidedText(
            art.file_name, Qt.TextElideMode.ElideMiddle, round(room)
        )
        painter.drawText(QPointF(left, card.top() + 26), name)
        painter.setFont(font(12.5))
        painter.setPen(QColor(t.faint))
        painter.drawText(
            QPointF(left, card.top() + 47), f"{number(art.width)} × {number(art.height)} mm"
        )
        on = sum(p.on for p in pockets(job.jig, job.piece.shape))
        painter.drawText(QPointF(left, card.top() + 67), f"in {on} pockets")


def _aspect(job: Job) -> float:
    """Height by width of the artwork."""
    return job.artwork.height / job.artwork.width if job.artwork else 1.0


def bed_station(desk: Desk) -> StationView:
    """The station's picture, inspector and tray."""
    session, canvas = desk.session, BedCanvas(desk)
    form = Form()
    title, place = form.title("Pocket 1")
    switch = QPushButton("Switch off")
    switch.setToolTip("Switch the chosen pocket off or on (X)")
    switch.clicked.connect(lambda: switch_pocket(desk, canvas.chosen))
    form.wide(switch)
    count = form.head("Grid")
    form.row(
        "Columns, rows",
        NumberField(
            session,
            "Columns",
            lambda j: j.jig.columns,
            lambda j, v: with_jig(j, columns=v),
            unit="",
            digits=0,
        ),
        NumberField(
            session,
            "Rows",
            lambda j: j.jig.rows,
            lambda j, v: with_jig(j, rows=v),
            unit="",
            digits=0,
        ),
    )
    form.row(
        "Gap",
        NumberField(
            session, "Gap across", lambda j: j.jig.gap_x, lambda j, v: with_jig(j, gap_x=v)
        ),
        NumberField(session, "Gap along", lambda j: j.jig.gap_y, lambda j, v: with_jig(j, gap_y=v)),
    )
    form.row(
        "First pocket",
        NumberField(
            session, "First pocket x", lambda j: j.jig.first_x, lambda j, v: with_jig(j, first_x=v)
        ),
        NumberField(
            session, "First pocket y", lambda j: j.jig.first_y, lambda j, v: with_jig(j, first_y=v)
        ),
    )
    centre = QPushButton("Centre on the board")
    centre.clicked.connect(
        lambda: session.edit(
            "Centre the grid", lambda j: j.replace(jig=centred_jig(j.jig, j.piece.shape))
        )
    )
    form.wide(centre)
    form.head("Artwork")
    form.row(
        "Size",
        NumberField(
            session,
            "Artwork width",
            lambda j: j.artwork.width if j.artwork else 0,
            lambda j, v: with_artwork(j, width=v, height=v * _aspect(j)),
        ),
        NumberField(
            session,
            "Artwork height",
            lambda j: j.artwork.height if j.artwork else 0,
            lambda j, v: with_artwork(j, height=v, width=v / _aspect(j)),
        ),
    )
    form.row(
        "Bleed",
        NumberField(session, "Bleed", lambda j: j.bleed, lambda j, v: j.replace(bleed=v), step=0.5),
    )
    form.head("Board")
    form.row(
        "Place",
        NumberField(session, "Board x", lambda j: j.jig.board.x, lambda j, v: with_board(j, x=v)),
        NumberField(session, "Board y", lambda j: j.jig.board.y, lambda j, v: with_board(j, y=v)),
    )
    form.row(
        "Size",
        NumberField(
            session, "Board width", lambda j: j.jig.board.width, lambda j, v: with_board(j, width=v)
        ),
        NumberField(
            session,
            "Board length",
            lambda j: j.jig.board.height,
            lambda j, v: with_board(j, height=v),
        ),
    )
    form.row(
        "Colour",
        ColourField(
            session,
            "Board colour",
            lambda j: j.jig.board.colour,
            lambda j, v: with_board(j, colour=v),
        ),
    )
    form.head("Guide", "outlines")
    form.row(
        "Line, distance",
        NumberField(
            session,
            "Guide line",
            lambda j: j.guide.line_width,
            lambda j, v: with_guide(j, line_width=v),
            step=0.1,
        ),
        NumberField(
            session,
            "Guide distance",
            lambda j: j.guide.distance,
            lambda j, v: with_guide(j, distance=v),
            step=0.1,
        ),
    )
    inks = [("Black", "Black"), ("White", "White")]
    form.row(
        "Ink",
        ChoiceField(
            session, "Guide ink", inks, lambda j: j.guide.ink, lambda j, v: with_guide(j, ink=v)
        ),
    )

    def refresh() -> None:
        job = session.job
        if job is None:
            return
        found = pockets(job.jig, job.piece.shape)
        count.setText(f"{sum(p.on for p in found)} of {len(found)} on")
        pocket = found[min(canvas.chosen, len(found)) - 1]
        title.setText(f"Pocket {pocket.number}")
        place.setText(
            f"row {pocket.row + 1}, place {pocket.column + 1};"
            f" centre {number(pocket.x)}, {number(pocket.y)} mm"
        )
        switch.setText("Switch off" if pocket.on else "Switch on")

    session.changed.connect(refresh)
    canvas.pocket_chosen.connect(refresh)
    refresh()
    return StationView(canvas, scrolled(form), Tray(desk))
