"""The bed in plan: board, keep-outs, pockets with their artwork, datum and rulers."""

from __future__ import annotations

from collections.abc import Set

import numpy as np
from pydantic import ValidationError
from PySide6.QtCore import QMimeData, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QMenu
from shapely.geometry import Point

from farbe.desk.canvas import WAYS, Middles, is_held, next_towards
from farbe.desk.following import Following
from farbe.desk.handout import POCKET_MIME
from farbe.desk.marks import choice_pens
from farbe.desk.stations.base import Desk
from farbe.desk.stations.bed.overbed import (
    paint_datum,
    paint_measure,
    paint_others,
    paint_rollers,
    paint_snap,
    paint_words,
)
from farbe.desk.stations.bed.pocketmenu import fill_menu
from farbe.desk.stations.bed.pocketpainter import PocketPainter, Shown
from farbe.desk.stations.bed.pointing import Spot, board_spot, text_at
from farbe.desk.stations.bed.rulers import RULER, Rulers
from farbe.desk.stations.bed.snapping import Snapped, nearest_point, snap, snap_pockets
from farbe.desk.stations.bed.striplook import paint_strip
from farbe.desk.stations.worlds import BedWorld
from farbe.desk.theme import font, px, theme
from farbe.edits import bed as bed_edits
from farbe.edits import places as place_edits
from farbe.layout.bedframe import axes, board_on_bed, from_bed, keep_out_polygon, to_bed
from farbe.layout.body import on_rollers
from farbe.layout.faced import Faced
from farbe.layout.figures import sizes
from farbe.layout.guide import jig_code
from farbe.layout.laid import LaidPiece, places
from farbe.layout.otherpockets import OtherPocket, other_pockets
from farbe.layout.pockets import footprint
from farbe.model.placing import PocketChange
from farbe.said import say, spoken

#: An artwork of the job, by its digest, as it is dragged out of the tray.
ARTWORK_MIME = "application/x-farbe-artwork"


class BedCanvas(Following, BedWorld):
    """The artwork is shown as it is read, not mirrored. The datum and both axes are shown."""

    AT_ONCE = True
    #: A pocket or a keep-out was chosen.
    choice_changed = Signal()
    #: What was clicked, and which of its kind: its values are wanted.
    pointed_at = Signal(object, int)
    #: These pieces failed and are wanted again.
    wanted_again = Signal(object)
    #: The jig may be moved in the picture, or stays where it is.
    jig_loosened = Signal(bool)

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.chosen = 1
        self.keep_out: int | None = None
        #: Pockets chosen together with a rubber band.
        self.banded: frozenset[int] = frozenset()
        #: The jig follows the pointer and the arrow keys; else it stays, whatever slips.
        self.loose = False
        #: Measuring instead of choosing and moving.
        self.measuring = False
        self._measured: tuple[QPointF, QPointF] | None = None
        self._snapped: Snapped | None = None
        self._band: tuple[QPointF, QPointF] | None = None
        self._pockets: tuple[LaidPiece, ...] = ()
        self._middles: Middles = np.empty((0, 2))
        #: Width and height of the largest pocket, and where the nearest one ends, in mm.
        self._largest, self._lowest = (0.0, 0.0), 1e6
        self._others: tuple[OtherPocket, ...] = ()
        self._painter, self._rulers = PocketPainter(desk, self), Rulers(self)
        self._grab: tuple[QPointF, Faced] | None = None
        self._spot: tuple[Spot, int] | None = None
        self.setAccessibleName(say("The bed in plan"))
        self.setAcceptDrops(True)
        desk.results.stamps_changed.connect(self.update)
        self.choice_changed.connect(self._say_choice)
        self.follow(desk.session)

    @property
    def pockets(self) -> tuple[LaidPiece, ...]:
        """All pockets of the job, worked out once for each job."""
        self.catch_up()
        return self._pockets

    @property
    def selected(self) -> frozenset[int]:
        """Numbers of the pockets that an edit is about."""
        return self.banded or frozenset({self.chosen})

    def switch_outlines(self) -> None:
        self._painter.outlines = not self._painter.outlines
        self._painter.forget()
        self.update()

    def measure(self, on: bool) -> None:
        """Begin or end measuring."""
        self.measuring, self._measured = on, None
        self.setCursor(Qt.CursorShape.CrossCursor if on else Qt.CursorShape.ArrowCursor)
        self.update()

    def loosen_jig(self, on: bool) -> None:
        """Let the jig be moved in the picture, or hold it."""
        if on != self.loose:
            self.loose = on
            self.jig_loosened.emit(on)
            self.update()

    def _jig_is_held(self) -> bool:
        """Whether the jig stays where it is; then it is said how it can be moved."""
        if not self.loose:
            self._desk.session.said.emit(
                say("The jig stays where it is. Move the jig (J) lets it be moved.")
            )
        return not self.loose

    def refresh(self) -> None:
        """Find the pockets of the job as it is now."""
        job = self._desk.session.job
        self._pockets = places(job) if job else ()
        pockets = [one.pocket for one in self._pockets]
        self._middles = np.array([(one.x, one.y) for one in pockets]).reshape(-1, 2)
        sizes_ = np.array([one.lies.size for one in self._pockets]).reshape(-1, 2)
        self._largest = tuple(sizes_.max(axis=0, initial=0.0).tolist())
        self._lowest = float((self._middles[:, 1] - sizes_[:, 1] / 2).min(initial=1e6))
        there = [pocket.number for pocket in pockets]
        if there and (self.chosen not in there or not self.banded <= set(there)):
            # It was taken away, or is for other pieces.
            last = max((number for number in there if number <= self.chosen), default=there[0])
            self.chosen, self.banded = last, frozenset()
        self._others = other_pockets(job) if job else ()
        if job and self.keep_out is not None and self.keep_out >= len(job.jig.keep_outs):
            self.keep_out = None
        self._say_choice()
        self.refit()

    def frame(self) -> QRectF:
        return QRectF(self.rect()).adjusted(px(RULER) + 26, px(RULER) + 16, -26, -40)

    # drawing

    def paint_world(self, painter: QPainter) -> None:
        job = self._desk.session.job
        if job is None:
            return
        bed = self.box(0, 0, job.printer.bed_width, job.printer.bed_height)
        painter.setPen(QPen(QColor("#262626"), 1.5))
        painter.setBrush(QColor("#a4a4a4"))
        painter.drawRect(bed)
        left, bottom, right, top = board_on_bed(job.jig.board, job.jig.datum, job.printer)
        plate = self.box(left, bottom, right - left, top - bottom)
        painter.setPen(QPen(QColor("#5d5d5d"), 1))
        painter.setBrush(QColor(job.jig.board.colour))
        painter.drawRect(plate)
        painter.setFont(font(11.5))
        painter.setPen(self._on_board(job))
        turned = say(", loaded turned by 180°") if job.bed_turned else ""
        board = job.jig.board
        lowest = self.at(0, self._lowest).y()
        if lowest < plate.bottom() - px(18):
            # Where the pockets leave room for it.
            painter.drawText(
                plate.bottomLeft() + QPointF(8, -7),
                say(
                    "{jig}, board {width}{turned}",
                    jig=job.jig.name,
                    width=sizes(board.width, board.height),
                    turned=turned,
                ),
            )
        if job.guide.numbers:
            code = QRectF(plate.right() - px(120), plate.bottom() - px(20), px(112), px(16))
            painter.drawText(code, Qt.AlignmentFlag.AlignRight, jig_code(job))
        self._paint_keep_outs(painter, job)
        if on_rollers(job):
            paint_rollers(self, painter, job)
        self._paint_pockets(painter, job)
        paint_datum(self, painter, job)
        self._paint_band(painter)
        if self._snapped is not None and self._grab is not None:
            paint_snap(self, painter, self._snapped)
        if self.measuring:
            paint_measure(self, painter, job, self._measured)
        elif self.loose:
            paint_words(
                self,
                painter,
                say("Drag or the arrow keys move the chosen pockets. J or Esc holds them again.")
                if job.jig.places
                else say("Drag or the arrow keys move the jig. J or Esc holds it again."),
            )
        self._rulers.paint(painter, job)

    @staticmethod
    def _on_board(job: Faced) -> QColor:
        dark = QColor(job.jig.board.colour).lightnessF() < 0.5
        return QColor("#f0f0f0" if dark else "#2c2c2c")

    def _paint_pockets(self, painter: QPainter, job: Faced) -> None:
        """All pockets that show."""
        width, height = (self.scale * side for side in self._largest)
        shown = self.places(self._pockets, self._middles, (width, height))
        used = [one for one in shown if one[0].pocket.on]
        self._painter.paint(painter, job, used)
        if len(used) < len(shown):
            self._paint_unused(painter, [one for one in shown if not one[0].on])
        paint_others(self, painter, self._others, self._on_board(job))
        paint_strip(self, painter, job)
        self._paint_figures(painter, job, shown)

    def _paint_unused(self, painter: QPainter, unused: list[Shown]) -> None:
        painter.setPen(QPen(QColor("#4c4c4c"), 1, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pocket, x, y in unused:
            painter.drawPath(self.shape_path(pocket.outline, QPointF(x, y)))

    def _paint_figures(self, painter: QPainter, job: Faced, shown: list[Shown]) -> None:
        """Numbers, where there is room for them, changed pockets, the frame of the chosen one."""
        width = footprint(job.jig, job.piece.shape)[0] * self.scale
        painter.setFont(font(max(9.0, min(13.0, width * 0.16))))
        painter.setPen(self._on_board(job))
        # Above the pocket where the next one leaves room for it.
        above = job.jig.gap_y * self.scale > px(12)
        if width > px(24):
            for pocket, x, y in shown:
                wide, high = (side * self.scale / 2 for side in pocket.size)
                corner = QPointF(x - wide - 2, y + (-9 if above else 3) - high)
                painter.drawText(corner, str(pocket.shown))
        changed = {change.pocket for change in job.changes}
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme().accent))
        for pocket, x, y in shown if changed else ():
            if pocket.number in changed:
                wide, high = (side * self.scale / 2 for side in pocket.size)
                tip = QPointF(x + wide, y - high)
                size = max(5.0, min(14.0, width * 0.2))
                painter.drawPolygon(
                    QPolygonF([tip, tip - QPointF(size, 0), tip + QPointF(0, size)])
                )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        chosen = self.banded or {self.chosen}
        for pocket, x, y in shown if self.keep_out is None else ():
            if pocket.pocket.number in chosen:
                wide, high = (side * self.scale / 2 for side in pocket.size)
                around = QRectF(x - wide, y - high, 2 * wide, 2 * high)
                for pen in choice_pens():
                    painter.setPen(pen)
                    painter.drawRoundedRect(around.adjusted(-6, -6, 6, 6), 4, 4)
                if job.texts and pocket.on and not self.banded:
                    self._painter.paint_boxes(painter, job, pocket.turn, QPointF(x, y))

    def _paint_keep_outs(self, painter: QPainter, job: Faced) -> None:
        for index, keep_out in enumerate(job.jig.keep_outs):
            corners = [
                to_bed(job.jig.datum, job.printer, x, y)
                for x, y in keep_out_polygon(keep_out).exterior.coords
            ]
            shape = QPolygonF([self.at(x, y) for x, y in corners])
            chosen = index == self.keep_out
            painter.setBrush(QBrush(QColor(190, 60, 50, 150), Qt.BrushStyle.BDiagPattern))
            for pen in choice_pens() if chosen else (QPen(QColor("#9c2f26"), 1.2),):
                painter.setPen(pen)
                painter.drawPolygon(shape)
            painter.setPen(QColor("#5e1610"))
            painter.setFont(font(11, bold=True))
            painter.drawText(
                shape.boundingRect(), Qt.AlignmentFlag.AlignCenter, spoken(keep_out.name)
            )

    def _paint_band(self, painter: QPainter) -> None:
        if self._band is not None:
            start, end = (self.at(p.x(), p.y()) for p in self._band)
            accent = QColor(theme().accent)
            accent.setAlpha(40)
            painter.setBrush(accent)
            for pen in choice_pens(1, Qt.PenStyle.DashLine):
                painter.setPen(pen)
                painter.drawRect(QRectF(start, end).normalized())

    # choosing and moving

    def pocket_at(self, place: QPointF) -> LaidPiece | None:
        job = self._desk.session.job
        if job is None:
            return None
        found = None
        for pocket in self._pockets:
            (width, height), x, y = pocket.size, place.x() - pocket.x, place.y() - pocket.y
            if abs(x) <= width / 2 and abs(y) <= height / 2:
                if not pocket.turn or pocket.outline.contains(Point(x, y)):
                    return pocket
                # Beside a piece that lies askew it is meant as well, if no other is.
                found = found or pocket
        return found

    def keep_out_at(self, place: QPointF) -> int | None:
        job = self._desk.session.job
        if job is None:
            return None
        x, y = from_bed(job.jig.datum, job.printer, place.x(), place.y())
        for index, keep_out in enumerate(job.jig.keep_outs):
            left, bottom, right, top = keep_out_polygon(keep_out).bounds
            if left <= x <= right and bottom <= y <= top:
                return index
        return None

    def choose_several(self, numbers: Set[int]) -> None:
        """Choose pockets together by their numbers."""
        self.banded, self.keep_out = frozenset(numbers), None
        self.choice_changed.emit()
        self.update()

    def choose(self, pocket: int, *, keep_out: int | None = None) -> None:
        """Choose a pocket by its number, or a keep-out by its place in the list."""
        self.chosen, self.keep_out, self.banded = pocket, keep_out, frozenset()
        self._desk.results.show_pocket(pocket)
        self.choice_changed.emit()
        self.update()

    def pressed(self, place: QPointF) -> None:
        job, pocket, keep_out = (
            self._desk.session.job,
            self.pocket_at(place),
            self.keep_out_at(place),
        )
        if job is not None and self.measuring:
            start = self._on_point(job, place)
            self._measured = (start, start)
        elif job is not None and (pocket is not None or keep_out is not None):
            self._spot = self._spot_at(job, place, pocket, keep_out)
            together = pocket is not None and pocket.number in self.banded and self.loose
            if not together or keep_out is not None:
                self.choose(pocket.number if pocket else self.chosen, keep_out=keep_out)
            self._grab = (place, job)
        elif job is not None:
            self._spot = self._spot_at(job, place, None, None)
            self._band = (place, place)

    def _spot_at(
        self, job: Faced, place: QPointF, pocket: LaidPiece | None, keep_out: int | None
    ) -> tuple[Spot, int]:
        """What is meant by a click. In the chosen pocket it is its text box or its artwork."""
        if keep_out is not None:
            return Spot.KEEP_OUT, keep_out
        if pocket is None:
            return (Spot.BOARD if self._is_datum(job, place) else board_spot(job, place)), 0
        if self.selected != {pocket.number} or self.keep_out is not None or not pocket.on:
            return Spot.POCKET, pocket.number
        box = text_at(job, place.x() - pocket.x, place.y() - pocket.y, pocket.turn)
        return (Spot.ARTWORK, 0) if box is None else (Spot.TEXT, box)

    def _is_datum(self, job: Faced, place: QPointF) -> bool:
        off = self.at(place.x(), place.y()) - self.at(*to_bed(job.jig.datum, job.printer, 0, 0))
        return off.manhattanLength() < 16

    def moved(self, event: QMouseEvent) -> None:
        if self._band is not None:
            self._band = (self._band[0], self.millimetres(event.position()))
            self.update()
        job_now = self._desk.session.job
        if self.measuring and self._measured is not None and job_now is not None:
            if event.buttons() & Qt.MouseButton.LeftButton:
                end = self._on_point(job_now, self.millimetres(event.position()))
                self._measured = (self._measured[0], end)
                self.update()
            return
        if self._grab is None:
            return
        start, job = self._grab
        now = self.millimetres(event.position())
        if (now - start).manhattanLength() * self.scale < 4:
            return
        if self.keep_out is None and self._jig_is_held():
            self._grab = None
            return
        # What is dragged is the grid or a keep-out, not what is in a pocket.
        self._spot = None
        across, along = axes(job.jig.datum)
        by = (now.x() - start.x()) * across, (now.y() - start.y()) * along
        free = event.modifiers() & Qt.KeyboardModifier.AltModifier
        single = self.keep_out is None and bool(job.jig.places)
        near = 8 / self.scale
        self._snapped = None if free else (
            snap_pockets(job, self.selected, by, near)
            if single
            else snap(job, self.keep_out, by, near)
        )  # fmt: skip
        by = by if self._snapped is None else self._snapped.by
        if self.keep_out is not None:
            bed_edits.drag_keep_out(self._desk.session, job, self.keep_out, by)
        elif single:
            place_edits.drag_places(self._desk.session, job, self.selected, by)
        else:
            bed_edits.drag_grid(self._desk.session, job, by)

    def _nudge(self, job: Faced, by: tuple[float, float]) -> None:
        """The chosen pockets, or the grid as a whole."""
        if job.jig.places:
            place_edits.nudge_places(self._desk.session, self.selected, by)
        else:
            bed_edits.nudge_grid(self._desk.session, by)

    def _on_point(self, job: Faced, place: QPointF) -> QPointF:
        """The corner or middle that is meant by a place near it, or the place."""
        x, y = nearest_point(job, self._pockets, place.x(), place.y(), 9 / self.scale)
        return QPointF(x, y)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls() or event.mimeData().hasFormat(ARTWORK_MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        pocket = self.pocket_at(self.millimetres(event.position()))
        data = event.mimeData()
        if data.hasFormat(ARTWORK_MIME):
            digest = bytes(data.data(ARTWORK_MIME).data()).decode()
            if pocket is not None:
                bed_edits.give_artwork(self._desk.session, {pocket.number}, digest)
                self.choose(pocket.number)
            return
        self._desk.intake.drop(data.urls(), pocket.number if pocket else None)

    def _in_band(self) -> frozenset[int]:
        """Numbers of the pockets whose middles the rubber band holds."""
        if self._band is None:
            return frozenset()
        band = QRectF(*self._band).normalized()
        return frozenset(p.number for p in self._pockets if band.contains(QPointF(p.x, p.y)))

    def released(self) -> None:
        spot, self._spot = self._spot, None
        if self._band is not None:
            self.banded, self._band = self._in_band(), None
            self.keep_out = None
            self.choice_changed.emit()
            self.update()
            if self.banded:
                spot = (Spot.POCKET, 0)
        if self._grab is not None:
            self._desk.session.end_action()
        self._grab = self._snapped = None
        if spot is not None and self.isVisible():
            self.pointed_at.emit(*spot)

    def give_up(self) -> bool:
        session = self._desk.session
        if self._grab is not None and session.job is not None:
            before = self._grab[1]
            self._grab = self._snapped = self._spot = None
            session.take_back(before)
            return True
        if self._band is not None or self.banded:
            self._band, self.banded = None, frozenset()
            self.choice_changed.emit()
            self.update()
            return True
        if self.measuring:
            self.measure(False)
            return True
        if self.loose:
            self.loosen_jig(False)
            return True
        return False

    def copied(self) -> QMimeData | None:
        job = self._desk.session.job
        if job is None:
            return None
        data = QMimeData()
        change = bed_edits.change_of(job, self.chosen)
        data.setData(POCKET_MIME, change.model_dump_json().encode("utf-8"))
        return data

    def pasted(self, data: QMimeData) -> bool:
        if not data.hasFormat(POCKET_MIME):
            return False
        try:
            change = PocketChange.model_validate_json(bytes(data.data(POCKET_MIME).data()))
        except ValidationError:
            return False
        bed_edits.set_apart(self._desk.session, self.selected, change)
        return True

    def fill_menu(self, menu: QMenu, place: QPointF) -> None:
        fill_menu(self, self._desk.session, menu, place)

    def copy(self) -> None:
        """Copy what is set apart for the chosen pocket."""
        if (data := self.copied()) is not None:
            QGuiApplication.clipboard().setMimeData(data)

    def paste(self) -> None:
        """Set the chosen pockets apart as was copied."""
        self.pasted(QGuiApplication.clipboard().mimeData())

    def choose_towards(self, across: int, up: int) -> None:
        here = next((p for p in self._pockets if p.number == self.chosen), None)
        if here is None:
            return
        places = [(p.number, p.x, p.y) for p in self._pockets if p.number != here.number]
        found = next_towards((here.x, here.y), places, (across, up))
        if found is not None:
            self.choose(found)

    def _choose_keep_out(self, by: int) -> None:
        """The next keep-out, after the last the pockets again."""
        job = self._desk.session.job
        count = len(job.jig.keep_outs) if job is not None else 0
        at = (-1 if self.keep_out is None else self.keep_out) + by
        self.choose(self.chosen, keep_out=at if 0 <= at < count else None)

    def _say_choice(self) -> None:
        """Tell what is chosen, to those who do not see it as well."""
        job = self._desk.session.job
        if job is None:
            return
        if self.keep_out is not None and self.keep_out < len(job.jig.keep_outs):
            self.tell(
                say(
                    "Keep-out {name} is chosen",
                    name=spoken(job.jig.keep_outs[self.keep_out].name),
                )
            )
            return
        chosen = sorted(self.selected)
        pocket = next((p for p in self._pockets if p.number == chosen[0]), None)
        if len(chosen) > 1:
            self.tell(
                say(
                    "{count} pockets are chosen, {first} to {last}",
                    count=len(chosen),
                    first=chosen[0],
                    last=chosen[-1],
                )
            )
        elif pocket is not None:
            state = "" if pocket.on else say(", switched off")
            self.tell(
                say(
                    "Pocket {pocket} of {pockets} is chosen{state}",
                    pocket=pocket.number,
                    pockets=len(self._pockets),
                    state=state,
                )
            )

    def keyPressEvent(self, event: QKeyEvent) -> None:
        held = is_held(event, "CONTROL") or is_held(event, "ALT")
        way = None if held else WAYS.get(Qt.Key(event.key()))
        job = self._desk.session.job
        if way is not None and job is not None:
            far = 1.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.1
            across, along = axes(job.jig.datum)
            by = (way[0] * across * far, way[1] * along * far)
            if self.keep_out is not None:
                bed_edits.drag_keep_out(self._desk.session, job, self.keep_out, by)
            elif not self._jig_is_held():
                self._nudge(job, by)
        elif event.key() == Qt.Key.Key_X:
            bed_edits.switch_pockets(self._desk.session, self.selected)
        elif event.key() == Qt.Key.Key_K:
            self._choose_keep_out(1)
        elif event.key() == Qt.Key.Key_A and job is not None:
            self.banded = frozenset(pocket.number for pocket in self._pockets)
            self.choice_changed.emit()
            self.update()
        elif event.key() == Qt.Key.Key_J:
            self.loosen_jig(not self.loose)
        elif event.key() == Qt.Key.Key_M:
            self.measure(not self.measuring)
        elif event.key() == Qt.Key.Key_Delete and self.keep_out is not None:
            bed_edits.remove_keep_out(self._desk.session, self.keep_out)
        else:
            super().keyPressEvent(event)
