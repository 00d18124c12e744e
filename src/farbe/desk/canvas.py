"""A picture in millimetres that can be zoomed and moved."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import TypeVar

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QMimeData, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QAccessibleEvent,
    QColor,
    QContextMenuEvent,
    QFocusEvent,
    QHideEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QMenu, QWidget
from shapely.geometry import MultiPolygon, Polygon

from farbe.desk.marks import choice_pens
from farbe.desk.theme import theme
from farbe.kept import Kept
from farbe.said import say

#: Keys that make the picture larger or smaller, and by how much.
ZOOMS = {Qt.Key.Key_Plus: 1.25, Qt.Key.Key_Equal: 1.25, Qt.Key.Key_Minus: 0.8}
#: Directions of keys, across and up.
WAYS = {
    Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1),
}  # fmt: skip
#: Pixels by which a key moves the picture.
PAN = 60.0
#: How much more what lies aside counts than what lies ahead, where the next thing is chosen.
ASIDE = 2.5


def is_held(event: QKeyEvent, name: str) -> bool:
    """Whether a modifier is held: ``ALT``, ``CONTROL`` or ``SHIFT``."""
    return bool(event.modifiers() & Qt.KeyboardModifier[f"{name.title()}Modifier"])


def next_towards(
    here: tuple[float, float], others: Iterable[tuple[int, float, float]], way: tuple[int, int]
) -> int | None:
    """What lies nearest in a direction.

    Parameters
    ----------
    here : from where, in mm
    others : number and place in mm of each thing
    way : across and up, one of them 1 or -1

    Returns
    -------
    Its number; None if nothing lies there.
    """
    found = []
    for number, x, y in others:
        right, up = x - here[0], y - here[1]
        ahead = right * way[0] + up * way[1]
        aside = abs(right * way[1]) + abs(up * way[0])
        if ahead > 1e-6:
            found.append((ahead + ASIDE * aside, number))
    return min(found)[1] if found else None


Thing = TypeVar("Thing")
#: x and y of many things in mm, (n, 2).
Middles = npt.NDArray[np.float64]


def path_in_mm(shape: Polygon | MultiPolygon) -> QPainterPath:
    """Areas as a path in mm, y up."""
    # Each time another, which shares what is in it until it is changed.
    return QPainterPath(_path(shape))


# The same few areas are drawn at each edit.
@lru_cache(maxsize=256)
def _path(shape: Polygon | MultiPolygon) -> QPainterPath:
    path = QPainterPath()
    for part in shape.geoms if isinstance(shape, MultiPolygon) else (shape,):
        for ring in (part.exterior, *part.interiors):
            coordinates = list(ring.coords)
            # Arcs have far more corners than a screen can show.
            every = max(1, len(coordinates) // 200)
            path.addPolygon(QPolygonF([QPointF(x, y) for x, y in coordinates[::every]]))
            path.closeSubpath()
    return path


class Canvas(QWidget):
    """Draws a world of millimetres, y up. The wheel zooms at the pointer; the middle button,
    or the left one with space held, moves the picture."""

    pointed = Signal(QPointF)
    MIN_SCALE, MAX_SCALE = 0.02, 400.0

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(160, 70)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        # It fills all of itself: what lies under it need not be drawn.
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.scale = 1.0
        self._origin = QPointF(0, 0)
        self._fitted = True
        self._drag: QPointF | None = None
        self._space = self._by_keys = False
        #: The line around a piece as it was drawn last, by all that it follows from.
        self._edge: Kept[tuple[object, ...], QImage] = Kept(1)

    def world(self) -> QRectF:
        """What "fit" shows, in mm (x, y of the lower left corner, width, height)."""
        return QRectF(0, 0, 100, 100)

    def paint_world(self, painter: QPainter) -> None:
        """Draw; use :meth:`at` to place things."""

    def switch_outlines(self) -> None:
        """Show outlines only, or everything again; nothing where there are none."""

    def give_up(self) -> bool:
        """Take back what is half done, a drag above all; whether there was anything."""
        return False

    def copied(self) -> QMimeData | None:
        """What *Copy* puts on the clipboard; None for nothing."""
        return None

    def pasted(self, data: QMimeData) -> bool:
        """Take what is on the clipboard, if it is meant for this picture; whether it is."""
        return False

    def fill_menu(self, menu: QMenu, place: QPointF) -> None:
        """Put in what can be done at a place in mm."""

    def frame(self) -> QRectF:
        """The part of the widget that "fit" fills."""
        return QRectF(self.rect()).adjusted(28, 24, -28, -24)

    def at(self, x: float, y: float) -> QPointF:
        """Widget position of a place in mm."""
        return QPointF(self._origin.x() + x * self.scale, self._origin.y() - y * self.scale)

    def box(self, left: float, bottom: float, width: float, height: float) -> QRectF:
        """Widget rectangle of one in mm."""
        return QRectF(self.at(left, bottom + height), self.at(left + width, bottom))

    def millimetres(self, point: QPointF) -> QPointF:
        """The place in mm under a widget position."""
        return QPointF(
            (point.x() - self._origin.x()) / self.scale, (self._origin.y() - point.y()) / self.scale
        )

    def shape_path(self, shape: Polygon | MultiPolygon, origin: QPointF) -> QPainterPath:
        """Areas around (0, 0) in mm at the present zoom, around a widget position."""
        return self.scaled_path(path_in_mm(shape), origin)

    def paint_edge(
        self, painter: QPainter, shape: Polygon | MultiPolygon, colour: str, wide: float
    ) -> None:
        """Draw the line around areas around (0, 0) in mm; of arcs that takes long, and is kept."""
        origin, ratio = self.at(0, 0), painter.device().devicePixelRatioF()

        def drawn() -> QImage:
            image = QImage(self.size() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
            image.setDevicePixelRatio(ratio)
            image.fill(Qt.GlobalColor.transparent)
            own = QPainter(image)
            own.setRenderHint(QPainter.RenderHint.Antialiasing)
            own.setPen(QPen(QColor(colour), wide))
            own.drawPath(self.shape_path(shape, origin))
            own.end()
            return image

        seen = self.scale, origin.toTuple(), self.size().toTuple(), ratio
        painter.drawImage(0, 0, self._edge.get((shape, colour, wide, *seen), drawn))

    def scaled_path(self, path: QPainterPath, origin: QPointF, turned: float = 0.0) -> QPainterPath:
        """A path in mm, y up, at the present zoom, around a widget position.

        It is turned by degrees, anticlockwise, before.
        """
        view = QTransform(self.scale, 0, 0, -self.scale, origin.x(), origin.y())
        return view.rotate(turned).map(path)

    def places(
        self, things: Sequence[Thing], middles: Middles, reach: tuple[float, float]
    ) -> list[tuple[Thing, float, float]]:
        """Those of very many things that show, and where in the widget their middles are.

        Parameters
        ----------
        things : in the order in which they are drawn
        middles : of each, in mm
        reach : pixels that they reach around their middles, across and up
        """
        x = self._origin.x() + middles[:, 0] * self.scale
        y = self._origin.y() - middles[:, 1] * self.scale
        wide, high = reach
        shows = np.flatnonzero(
            (x >= -wide) & (x <= self.width() + wide) & (y >= -high) & (y <= self.height() + high)
        )
        found = [things[at] for at in shows.tolist()]
        return list(zip(found, x[shows].tolist(), y[shows].tolist(), strict=True))

    def fit(self) -> None:
        """Show the whole world."""
        self._fitted = True
        world, frame = self.world(), self.frame()
        if world.width() <= 0 or world.height() <= 0 or frame.width() <= 0 or frame.height() <= 0:
            return
        self.scale = min(frame.width() / world.width(), frame.height() / world.height())
        middle = world.center()
        self._origin = QPointF(
            frame.center().x() - middle.x() * self.scale,
            frame.center().y() + middle.y() * self.scale,
        )
        self.update()

    def refit(self) -> None:
        """Fit again if nothing was zoomed or moved since the last fit."""
        if self._fitted:
            self.fit()
        self.update()

    def zoom(self, factor: float, point: QPointF) -> None:
        scale = max(self.MIN_SCALE, min(self.MAX_SCALE, self.scale * factor))
        factor = scale / self.scale
        self._origin = point + (self._origin - point) * factor
        self.scale, self._fitted = scale, False
        self.view_moved()

    def view_moved(self) -> None:
        """Show another part of the world, or the same at another zoom."""
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._fitted:
            self.fit()
        else:
            self.view_moved()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu = QMenu(self)
        self.fill_menu(menu, self.millimetres(QPointF(event.pos())))
        menu.addSeparator()
        menu.addAction(say("Fit the picture"), self.fit)
        menu.popup(event.globalPos())

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom(1.0015 ** event.angleDelta().y(), event.position())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = True
            self.setCursor(Qt.CursorShape.OpenHandCursor)
        elif event.key() in ZOOMS:
            self.zoom(ZOOMS[Qt.Key(event.key())], QPointF(self.rect().center()))
        elif (way := WAYS.get(Qt.Key(event.key()))) and is_held(event, "ALT"):
            self.pan(QPointF(-way[0], way[1]) * PAN)
        elif way is not None and is_held(event, "CONTROL"):
            self.choose_towards(*way)
        else:
            super().keyPressEvent(event)

    def pan(self, by: QPointF) -> None:
        """Move the picture by so many pixels."""
        self._origin += by
        self._fitted = False
        self.view_moved()

    def choose_towards(self, across: int, up: int) -> None:
        """Choose what lies next in a direction, if anything here can be chosen."""

    def tell(self, words: str) -> None:
        """What is chosen here, for those who do not see it."""
        if words != self.accessibleDescription():
            self.setAccessibleDescription(words)
            QAccessible.updateAccessibility(
                QAccessibleEvent(self, QAccessible.Event.DescriptionChanged)
            )

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
            self.unsetCursor()
            return
        super().keyReleaseEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        left = event.button() == Qt.MouseButton.LeftButton
        if event.button() == Qt.MouseButton.MiddleButton or (left and self._space):
            self._drag = event.position()
        elif left:
            self.pressed(self.millimetres(event.position()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self.pan(event.position() - self._drag)
            self._drag = event.position()
        self.pointed.emit(self.millimetres(event.position()))
        self.moved(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._drag = None
        self.released()

    def hideEvent(self, event: QHideEvent) -> None:
        # Who goes elsewhere by a key while a button is down lets go of what was held.
        self._drag, self._space = None, False
        self.released()
        super().hideEvent(event)

    def pressed(self, place: QPointF) -> None:
        """The left button went down at a place in mm."""

    def moved(self, event: QMouseEvent) -> None:
        """The pointer moved."""

    def released(self) -> None:
        """A button went up, or nobody sees what it holds any more."""

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme().picture))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        self.paint_world(painter)
        if self._by_keys and self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for pen in choice_pens(1.5):
                painter.setPen(pen)
                painter.drawRect(self.rect().adjusted(3, 3, -3, -3))
        painter.end()

    def focusInEvent(self, event: QFocusEvent) -> None:
        # A frame tells who goes by keys where they are; who clicks knows.
        reasons = Qt.FocusReason
        self._by_keys = event.reason() in (
            reasons.TabFocusReason, reasons.BacktabFocusReason, reasons.ShortcutFocusReason,
        )  # fmt: skip
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()
