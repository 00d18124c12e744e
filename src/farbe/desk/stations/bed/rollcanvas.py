"""The film of a roll from above: what lies on it, its margins, sheets and rulers."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial
from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPen,
    QPixmap,
    QPolygonF,
    QTransform,
)
from PySide6.QtWidgets import QMenu, QWidget

from farbe.art.artwork import Pixels
from farbe.desk.canvas import Canvas, is_held, next_towards
from farbe.desk.images import rgb_image
from farbe.desk.marks import choice_pens
from farbe.desk.stations.base import Desk
from farbe.desk.stations.bed.rulers import ruler_step, ruler_words
from farbe.desk.stations.bed.striplook import paint_strip
from farbe.desk.theme import font
from farbe.edits import film as film_edits
from farbe.follows.pictures import LARGEST
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.laid import LaidPiece, laid
from farbe.layout.rolls import (
    film_length,
    line_places,
    sheet_lengths,
    sheet_start,
)
from farbe.model.roll import Cut, Packing, Roll
from farbe.plan.order import mirrored
from farbe.render.marks import LINE_LENGTH
from farbe.said import say

#: Pixels within which a dragged artwork snaps to an edge.
NEAR = 7.0
#: Pixels that a line may be off where it is drawn.
FINEST = 0.25
#: Least pixels between two figures of a ruler.
RULER = 56.0


def _of(change: Callable[[Faced, int], Faced], which: int, job: Faced) -> Faced:
    return change(job, which)


class RollCanvas(Canvas):
    """Click chooses an artwork, dragging moves it; R turns, D doubles, Delete takes it off."""

    #: Another artwork is chosen.
    choice_changed = Signal()
    #: An artwork was clicked: its values are wanted.
    pointed_at = Signal()

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__()
        self.setParent(parent)
        self._desk = desk
        #: The number of the artwork that is chosen; 0 is none.
        self.choice = 0
        self._grabbed: QPointF | None = None
        self._from: Faced | None = None
        #: The path of each artwork's lines in mm, its pictures as they lie, turned by degrees, and
        #: from what and for what they were made.
        self._cuts: dict[str, tuple[object, QPainterPath]] = {}
        self._pictures: dict[tuple[str, int], tuple[object, object, QPixmap]] = {}
        #: True shapes interlock as they are printed, so the film shows them so.
        self._mirrored = False
        #: Artworks that are marked as met by others.
        self._marked = frozenset[int]()
        self.setAccessibleName(say("The film from above; drag artworks, R turns, Delete takes off"))
        desk.session.changed.connect(self._changed)
        desk.results.stamps_changed.connect(self._new_pictures)
        desk.results.findings_changed.connect(self._mark)
        self._changed()

    def _roll(self) -> tuple[Faced, Roll] | None:
        job = self._desk.session.job
        return None if job is None or job.roll is None else (job, job.roll)

    def _count(self) -> int:
        found = self._roll()
        return len(found[1].places) if found is not None else 0

    def _changed(self) -> None:
        found = self._roll()
        self.setVisible(found is not None)
        if found is not None:
            _, roll = found
            self.choice = min(self.choice, len(roll.places))
            self.refit()

    @property
    def _met(self) -> frozenset[int]:
        """Numbers of the artworks that others touch."""
        findings = self._desk.results.findings
        return findings.met if findings is not None else frozenset()

    def _mark(self) -> None:
        if self._met != self._marked:
            self.update()

    def _new_pictures(self) -> None:
        results = self._desk.results
        self._pictures = {k: v for k, v in self._pictures.items() if k[0] in results.thumbs}
        self._cuts = {k: v for k, v in self._cuts.items() if k in results.cuts}
        self.update()

    def world(self) -> QRectF:
        found = self._roll()
        if found is None:
            return super().world()
        return QRectF(0, 0, found[1].width, film_length(found[0]))

    def frame(self) -> QRectF:
        return QRectF(self.rect()).adjusted(48, 34, -20, -30)

    # drawing

    def paint_world(self, painter: QPainter) -> None:
        found = self._roll()
        if found is None:
            return
        job, roll = found
        self._mirrored = mirrored(job.reader)
        self._paint_film(painter, job, roll)
        met = self._marked = self._met
        # With lines around artworks that end beside the window.
        around = roll.beyond * self.scale + NEAR
        seen = QRectF(self.rect()).adjusted(-around, -around, around, around)
        for place in laid(job):
            if place.what is None or place.what.artwork is None:
                continue
            (wide, high), which = place.size, place.number
            digest, turned = place.what.artwork.key, place.what.turned or 0
            box = self.box(place.x - wide / 2, place.y - high / 2, wide, high)
            if not seen.intersects(box):
                continue
            self._paint_artwork(painter, digest, turned, box)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if which in met:
                painter.setPen(QPen(QColor("#c23b2e"), 2))
                painter.drawRect(box)
            elif roll.packing is not Packing.SHAPES and roll.cut is Cut.BOXES:
                painter.setPen(QPen(QColor("#6d7478"), 0.8))
                painter.drawRect(box)
            self._paint_cut(painter, digest, turned, place)
            if which == self.choice:
                for pen in choice_pens():
                    painter.setPen(pen)
                    painter.drawRect(box.adjusted(-2, -2, 2, 2))
        per_mm = self.scale * self.devicePixelRatioF()
        self._desk.results.look_closer(per_mm, (), [art.key for art in job.artworks])
        painter.setPen(QPen(QColor("#141414"), 2))
        for _, x, y in line_places(job):
            painter.drawLine(self.at(x - LINE_LENGTH / 2, y), self.at(x + LINE_LENGTH / 2, y))
        paint_strip(self, painter, job, turned=self._mirrored)
        self._paint_rulers(painter, job, roll)
        self._paint_words(painter, job, roll)

    def _paint_film(self, painter: QPainter, job: Faced, roll: Roll) -> None:
        for start, end in pairwise((*self._starts(job), film_length(job))):
            painter.setPen(QPen(QColor("#3c3c3c"), 1.2))
            painter.setBrush(QColor("#cfd4d7"))
            painter.drawRect(self.box(0, start, roll.width, end - start))
            inner = self.box(
                roll.side, start + roll.lead, roll.room, end - start - roll.lead - roll.trail
            )
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor("#8d9498"), 1, Qt.PenStyle.DashLine))
            painter.drawRect(inner)

    @staticmethod
    def _starts(job: Faced) -> tuple[float, ...]:
        return tuple(sheet_start(job, sheet) for sheet in range(len(sheet_lengths(job))))

    def _paint_cut(self, painter: QPainter, digest: str, turned: int, place: LaidPiece) -> None:
        """The line that an artwork is cut along, if that is not its rectangle."""
        shape = self._desk.results.cuts.get(digest)
        if shape is None:
            return
        # Corners that no screen can show make dashes slow.
        lines = shape.within(FINEST / self.scale)
        kept = self._cuts.get(digest)
        if kept is None or kept[0] is not lines:
            path = QPainterPath()
            for line in lines:
                path.addPolygon(QPolygonF([QPointF(x, y) for x, y in line.tolist()]))
                path.closeSubpath()
            kept = self._cuts[digest] = lines, path
        # Qt draws lines that are a pixel wide ten times as fast as wider ones.
        painter.setPen(QPen(QColor("#141414"), 1, Qt.PenStyle.DashLine))
        painter.drawPath(self.scaled_path(kept[1], self.at(place.x, place.y), turned))

    def _paint_artwork(self, painter: QPainter, digest: str, turned: int, box: QRectF) -> None:
        pixels = self._desk.results.thumbs.get(digest)
        if pixels is None:
            return
        ratio = self.devicePixelRatioF()
        picture = self._at_size(digest, pixels, turned, box.size() * ratio)
        # To draw it pixel for pixel takes a fraction of what it takes at parts of pixels.
        corner = (box.topLeft() * ratio).toPoint().toPointF() / ratio
        size = picture.size().toSizeF() / ratio
        whole = max(box.width(), box.height()) * ratio <= LARGEST
        painter.drawPixmap(QRectF(corner, size) if whole else box, picture,
                           QRectF(picture.rect()))  # fmt: skip

    def _at_size(self, digest: str, pixels: Pixels, turned: int, size: QSizeF) -> QPixmap:
        """An artwork's picture as it lies, with the pixels of the screen that it takes, made once.

        It is made smaller by the means of its pixels: lines and small type keep their weight.
        """
        wanted = size.toSize().expandedTo(QSize(1, 1)).boundedTo(QSize(LARGEST, LARGEST))
        key, of = (digest, turned), (self._mirrored, wanted.toTuple())
        kept = self._pictures.get(key)
        if kept is None or kept[0] is not pixels or kept[1] != of:
            lies = QTransform().rotate(-turned).scale(-1 if self._mirrored else 1, 1)
            picture = QPixmap.fromImage(
                rgb_image(pixels)
                .transformed(lies)
                .scaled(
                    wanted,
                    Qt.AspectRatioMode.IgnoreAspectRatio,
                    Qt.TransformationMode.SmoothTransformation,
                )
            )
            kept = self._pictures[key] = pixels, of, picture
        return kept[2]

    def _paint_rulers(self, painter: QPainter, job: Faced, roll: Roll) -> None:
        step = ruler_step(self.scale, RULER)
        painter.setFont(font(11))
        painter.setPen(QPen(QColor("#f0f0f0"), 1))
        for x in np.arange(0.0, roll.width + 1e-6, step):
            at = self.at(x, 0)
            painter.drawLine(at, at + QPointF(0, 5))
            painter.drawText(QRectF(at.x() - 30, at.y() + 6, 60, 14), Qt.AlignmentFlag.AlignCenter,
                             ruler_words(x))  # fmt: skip
        for y in np.arange(0.0, film_length(job) + 1e-6, step):
            at = self.at(0, y)
            painter.drawLine(at, at - QPointF(5, 0))
            side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(at.x() - 46, at.y() - 7, 38, 14), side, ruler_words(y))

    def _paint_words(self, painter: QPainter, job: Faced, roll: Roll) -> None:
        painter.setFont(font(12.5))
        painter.setPen(QColor("#f4f4f4"))
        count = len(sheet_lengths(job))
        parts = say(", {count} sheets", count=count) if count > 1 else ""
        if job.two_sided:
            side = (
                say("side A") if job.came_up is None else say("side B, turned over, last end first")
            )
            painter.drawText(
                QPointF(16, 20),
                say(
                    "{places} pairs, {side}; film {width} wide, {film_length} of it",
                    places=len(roll.places),
                    side=side,
                    width=measure(roll.width),
                    film_length=measure(film_length(job), 0),
                ),
            )
            return
        words = say(
            "{places} artworks on film {width} wide, {film_length} of it{parts}, as they "
            "are printed",
            places=len(roll.places),
            width=measure(roll.width),
            film_length=measure(film_length(job), 0),
            parts=parts,
        )
        painter.drawText(QPointF(16, 20), words)

    # mouse and keys

    def number_at(self, place: QPointF) -> int:
        """The artwork under a place in mm, the uppermost; 0 for none."""
        found = self._roll()
        if found is None:
            return 0
        for piece in reversed(laid(found[0])):
            wide, high = piece.size
            if abs(place.x() - piece.x) <= wide / 2 and abs(place.y() - piece.y) <= high / 2:
                return piece.number
        return 0

    def pressed(self, place: QPointF) -> None:
        self.choice = self.number_at(place)
        self._grabbed, self._from = place, self._desk.session.job
        if self.choice:
            self._desk.results.show_pocket(self.choice)
            self.pointed_at.emit()
        self.choice_changed.emit()
        self.update()

    def moved(self, event: QMouseEvent) -> None:
        if self._grabbed is None or not self.choice or self._from is None:
            return
        off = self.millimetres(event.position()) - self._grabbed
        if math.hypot(off.x(), off.y()) * self.scale < 3:
            return
        free = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        near = 0.0 if free else NEAR / self.scale
        start, which = self._from, self.choice
        self._desk.session.edit(
            say("Move an artwork"),
            lambda j: film_edits.dragged(j, which, (off.x(), off.y()), near, start),
            joins=True,
        )

    def released(self) -> None:
        if self._grabbed is not None:
            self._desk.session.end_action()
        self._grabbed = self._from = None

    def choose_towards(self, across: int, up: int) -> None:
        found = self._roll()
        if found is None:
            return
        pieces = {piece.number: piece for piece in laid(found[0])}
        here = pieces.get(self.choice)
        if here is None:
            self._take(min(pieces, default=0))
            return
        places = [(p.number, p.x, p.y) for p in pieces.values() if p.number != here.number]
        self._take(next_towards((here.x, here.y), places, (across, up)) or self.choice)

    def _take(self, number: int) -> None:
        """Choose an artwork on the film."""
        self.choice = number
        if number:
            self._desk.results.show_pocket(number)
            self.tell(self._desk.results.shown_print[2])
        self.choice_changed.emit()
        self.update()

    def give_up(self) -> bool:
        if self._grabbed is None or self._from is None:
            return False
        before, self._grabbed, self._from = self._from, None, None
        self._desk.session.take_back(before)
        return True

    def fill_menu(self, menu: QMenu, place: QPointF) -> None:
        which, session = self.number_at(place), self._desk.session
        if not which:
            return
        self._take(which)
        for words, name, change in (
            (say("Turn by a quarter"), say("Turn an artwork"), film_edits.turned),
            (say("One more of it"), say("One more on the film"), film_edits.doubled),
            (say("Take off the film"), say("Take off the film"), film_edits.taken_off),
        ):
            menu.addAction(words, partial(session.edit, name, partial(_of, change, which)))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        which, key = self.choice, event.key()
        session = self._desk.session
        far = 1.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.1
        steps = {
            Qt.Key.Key_Left: (-far, 0.0), Qt.Key.Key_Right: (far, 0.0),
            Qt.Key.Key_Up: (0.0, far), Qt.Key.Key_Down: (0.0, -far),
        }  # fmt: skip
        if not which or is_held(event, "CONTROL") or is_held(event, "ALT"):
            super().keyPressEvent(event)
        elif key in steps:
            by = steps[Qt.Key(key)]
            session.edit(
                say("Nudge an artwork"), lambda j: film_edits.dragged(j, which, by, 0.0), joins=True
            )
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            later = key == Qt.Key.Key_PageUp
            if session.edit(
                say("Move a pair"), lambda j: film_edits.moved_pair(j, which, not later)
            ):
                self.choice = min(max(1, which + (1 if later else -1)), self._count())
        elif key == Qt.Key.Key_R:
            session.edit(say("Turn an artwork"), lambda j: film_edits.turned(j, which))
        elif key == Qt.Key.Key_D:
            session.edit(say("One more on the film"), lambda j: film_edits.doubled(j, which))
        elif key == Qt.Key.Key_Delete:
            session.edit(say("Take off the film"), lambda j: film_edits.taken_off(j, which))
        else:
            super().keyPressEvent(event)
