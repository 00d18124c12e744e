"""A tone curve that is drawn with the mouse."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from farbe.desk.session import Session
from farbe.desk.theme import fixed, font, theme
from farbe.layout.faced import Faced
from farbe.said import say

CurvePoints = tuple[tuple[float, float], ...]
GRIP = 9.0


class CurveField(QWidget):
    """Percent in to the right, percent out upwards. Drag a point, click the line to add one,
    Delete removes the chosen one; arrows move it by one percent."""

    def __init__(
        self,
        session: Session,
        get: Callable[[Faced], CurvePoints],
        put: Callable[[Faced, CurvePoints], Faced],
    ) -> None:
        super().__init__()
        self._session, self._get, self._put = session, get, put
        self._chosen: int | None = None
        self._dragging = False
        #: The curve as the drag has it so far.
        self._held: CurvePoints = ()
        self._before: Faced | None = None
        fixed(self, high=150)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(say("Tone curve"))
        self.setToolTip(str(self.__class__.__doc__).replace("\n    ", " "))
        session.changed.connect(self.update)

    def points(self) -> CurvePoints:
        job = self._session.job
        return self._get(job) if job is not None else ((0.0, 0.0), (100.0, 100.0))

    def _area(self) -> QRectF:
        side = self.height() - 26.0
        return QRectF(self.width() - side - 10, 8, side, side)

    def at(self, x: float, y: float) -> QPointF:
        """Where a point of the curve is drawn."""
        area = self._area()
        return QPointF(
            area.left() + x / 100 * area.width(), area.bottom() - y / 100 * area.height()
        )

    def _figures(self, point: QPointF) -> tuple[float, float]:
        area = self._area()
        x = (point.x() - area.left()) / area.width() * 100
        y = (area.bottom() - point.y()) / area.height() * 100
        return round(max(0.0, min(100.0, x))), round(max(0.0, min(100.0, y)))

    def _set(self, points: CurvePoints, group: str | None) -> None:
        self._session.edit(say("Tone curve"), lambda job: self._put(job, points), joins=True)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        points, here = self.points(), event.position()
        self._before = self._session.job
        far = [(self.at(*p) - here).manhattanLength() for p in points]
        nearest = min(range(len(points)), key=far.__getitem__)
        if far[nearest] > GRIP:
            x, y = self._figures(here)
            if any(abs(p[0] - x) < 2 for p in points):
                return
            points = tuple(sorted((*points, (x, y))))
            self._set(points, None)
            nearest = points.index((x, y))
        self._chosen, self._dragging, self._held = nearest, True, self.points()
        self.update()

    def _step_to(self, by: int) -> None:
        """Choose the next point along the curve, by keys."""
        last = len(self.points()) - 1
        at = (-1 if by > 0 else last + 1) if self._chosen is None else self._chosen
        self._chosen = max(0, min(last, at + by))
        self.update()

    def _insert(self) -> None:
        """One more point, half way to the next one."""
        points = self.points()
        at = min(self._chosen or 0, len(points) - 2)
        (x0, y0), (x1, y1) = points[at], points[at + 1]
        if x1 - x0 > 3:
            middle = (round((x0 + x1) / 2), round((y0 + y1) / 2))
            self._set((*points[: at + 1], middle, *points[at + 1 :]), None)
            self._chosen = at + 1
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        # What was undone while it was held is held no longer.
        self._dragging = self._dragging and self.points() == self._held
        if self._dragging and self._chosen is not None:
            self._move(self._chosen, *self._figures(event.position()), "drag curve")
            self._held = self.points()

    def mouseReleaseEvent(self, _: QMouseEvent) -> None:
        if self._dragging:
            self._session.end_action()
        self._dragging = False

    def _move(self, index: int, x: float, y: float, group: str) -> None:
        """Move a point; the ends stay at their percent in, others between their neighbours."""
        points = self.points()
        if index in (0, len(points) - 1):
            x = points[index][0]
        else:
            x = max(points[index - 1][0] + 1, min(points[index + 1][0] - 1, x))
        moved = (*points[:index], (x, max(0.0, min(100.0, y))), *points[index + 1 :])
        self._set(moved, group)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        points, index = self.points(), self._chosen
        steps = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        step = steps.get(Qt.Key(event.key()))
        walks = {Qt.Key.Key_PageUp: 1, Qt.Key.Key_PageDown: -1}.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Escape and self._dragging:
            self._dragging = False
            self._session.take_back(self._before)
        elif walks is not None:
            self._step_to(walks)
        elif event.key() == Qt.Key.Key_Insert:
            self._insert()
        elif index is None or index >= len(points):
            super().keyPressEvent(event)
        elif step is not None:
            self._move(index, points[index][0] + step[0], points[index][1] + step[1], "key curve")
        elif event.key() == Qt.Key.Key_Delete and 0 < index < len(points) - 1:
            self._set((*points[:index], *points[index + 1 :]), None)
            self._chosen = None
        else:
            super().keyPressEvent(event)

    def paintEvent(self, _: QPaintEvent) -> None:
        t, area = theme(), self._area()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(area, QColor(t.field))
        painter.setPen(QPen(QColor(t.line), 1))
        for i in range(5):
            painter.drawLine(self.at(25 * i, 0), self.at(25 * i, 100))
            painter.drawLine(self.at(0, 25 * i), self.at(100, 25 * i))
        painter.setPen(QPen(QColor(t.accent), 2))
        places = [self.at(*p) for p in self.points()]
        painter.drawPolyline(places)
        for index, place in enumerate(places):
            painter.setBrush(QColor(t.accent if index == self._chosen else t.field))
            painter.drawEllipse(place, 4.5, 4.5)
        painter.setFont(font(12))
        painter.setPen(QColor(t.faint))
        words = QRectF(0, area.top(), area.left() - 10, area.height())
        right = Qt.AlignmentFlag.AlignRight
        painter.drawText(words, right | Qt.AlignmentFlag.AlignTop, say("percent out"))
        painter.drawText(QRectF(area.left(), area.bottom() + 1, area.width(), 16), right, say("in"))
        if self._chosen is not None and self._chosen < len(places):
            x, y = self.points()[self._chosen]
            painter.setPen(QColor(t.text))
            text = say("{x} % becomes {y} %", x=f"{x:g}", y=f"{y:g}")
            painter.drawText(words, Qt.AlignmentFlag.AlignBottom | Qt.TextFlag.TextWordWrap, text)
        if self.hasFocus():
            painter.setPen(QPen(QColor(t.accent), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(area.adjusted(-2, -2, 2, 2))
        painter.end()
