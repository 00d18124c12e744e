"""Pictures of a condition: tone curves, what its inks reach, opacity by hits, drift."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from farbe.desk.theme import area_of, drawn_at_scale, plain_font, theme
from farbe.model.condition import Condition
from farbe.model.printer import Printer
from farbe.optics.inks import InkSet, white_contrast
from farbe.said import say, spoken

#: Hits of white that are shown.
HITS = 6
#: a* and b* at the edge of the picture.
CHROMA = 100.0
_DASHES = (
    Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine,
    Qt.PenStyle.DashDotDotLine,
)  # fmt: skip


@dataclass(frozen=True, eq=False)
class Shown:
    """What the pictures show.

    Attributes
    ----------
    condition, printer : that is shown, and whose it is
    reach : a* and b* of what the inks reach, (n, 2); None is not known yet
    """

    condition: Condition
    printer: Printer
    reach: npt.NDArray[np.float64] | None


class ConditionPictures(QWidget):
    """Four pictures in two rows."""

    def __init__(self) -> None:
        super().__init__()
        self._shown: Shown | None = None
        self.setMinimumSize(420, 380)
        self.setAccessibleName(say("Pictures of the condition"))

    def show_condition(self, shown: Shown | None) -> None:
        """Show another one, or none."""
        self._shown = shown
        self.setAccessibleDescription("" if shown is None else _in_words(shown))
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._shown is None:
            return
        painter = QPainter(self)
        drawn_at_scale(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        whole = QRectF(area_of(self))
        wide, high = (whole.width() - 16) / 2, (whole.height() - 16) / 2
        parts: Sequence[tuple[str, Callable[[QPainter, QRectF, Shown], None]]] = (
            (say("Sent for what is wanted, %"), _curves),
            (say("Colours in reach, a* and b*"), _reach),
            (say("Hidden by hits of white, %"), _opacity),
            (say("Drift of the strip, ΔE00"), _drift),
        )
        for at, (words, draw) in enumerate(parts):
            left, top = (at % 2) * (wide + 16), (at // 2) * (high + 16)
            painter.setFont(plain_font(12))
            painter.setPen(QColor(theme().faint))
            painter.drawText(QRectF(left, top, wide, 18), Qt.AlignmentFlag.AlignLeft, words)
            draw(painter, QRectF(left + 26, top + 24, wide - 34, high - 46), self._shown)
        painter.end()


def _in_words(shown: Shown) -> str:
    inks = InkSet.of(shown.printer, shown.condition)
    hidden = ", ".join(f"{100 * white_contrast(hits, inks):.0f}" for hits in range(1, HITS + 1))
    return say("White hides {hidden} % in 1 to {most} hits", hidden=hidden, most=HITS)


def _frame(
    painter: QPainter, area: QRectF, x: Sequence[str], y: Sequence[str], *, square: bool = False
) -> QRectF:
    """The axes of a picture with words along them; where it is drawn."""
    t = theme()
    if square:
        side = min(area.width(), area.height())
        area = QRectF(area.left(), area.top(), side, side)
    painter.fillRect(area, QColor(t.field))
    painter.setPen(QPen(QColor(t.line), 1))
    painter.drawRect(area)
    painter.setFont(plain_font(11))
    for at, word in enumerate(x):
        where = area.left() + area.width() * at / max(1, len(x) - 1)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.drawLine(QPointF(where, area.top()), QPointF(where, area.bottom()))
        painter.setPen(QColor(t.faint))
        painter.drawText(QRectF(where - 20, area.bottom() + 3, 40, 16),
                         Qt.AlignmentFlag.AlignHCenter, word)  # fmt: skip
    beside = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    for at, word in enumerate(y):
        where = area.bottom() - area.height() * at / max(1, len(y) - 1)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.drawLine(QPointF(area.left(), where), QPointF(area.right(), where))
        painter.setPen(QColor(t.faint))
        painter.drawText(QRectF(area.left() - 32, where - 8, 28, 16), beside, word)
    return area


def _nothing(painter: QPainter, area: QRectF, words: str) -> None:
    painter.setPen(QColor(theme().faint))
    painter.setFont(plain_font(12))
    flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
    painter.drawText(area, int(flags), words)


def _curves(painter: QPainter, area: QRectF, shown: Shown) -> None:
    """What is sent of each ink; each has a dash of its own besides its hue."""
    place = _frame(painter, area, ("0", "50", "100"), ("0", "50", "100"), square=True)
    curves = shown.condition.curves
    if not curves:
        _nothing(painter, place, say("All inks are sent as they are wanted."))
        return
    colours = {ink.name: ink.shown for ink in shown.printer.inks}
    for at, curve in enumerate(curves):
        line = QPolygonF([_at(place, x / 100, y / 100) for x, y in curve.points])
        shade = _seen(colours.get(curve.ink, theme().text))
        painter.setPen(QPen(shade, 2, _DASHES[at % len(_DASHES)]))
        painter.drawPolyline(line)
        row = QRectF(
            place.right() + 12, place.top() + 20 * at, area.right() - place.right() - 8, 18
        )
        middle = row.top() + 9
        painter.drawLine(QPointF(row.left(), middle), QPointF(row.left() + 24, middle))
        painter.setPen(QColor(theme().text))
        painter.drawText(
            row.adjusted(30, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, spoken(curve.ink)
        )


def _at(place: QRectF, x: float, y: float) -> QPointF:
    """A place of a picture, by shares of its width and height."""
    return QPointF(place.left() + place.width() * x, place.bottom() - place.height() * y)


def _seen(colour: str) -> QColor:
    """A colour that can be told from the field it is drawn on."""
    made = QColor(colour)
    field = QColor(theme().field)
    if abs(made.lightness() - field.lightness()) < 70:
        return made.darker(170) if field.lightness() > 128 else made.lighter(170)
    return made


def _reach(painter: QPainter, area: QRectF, shown: Shown) -> None:
    edge = f"{CHROMA:.0f}"
    place = _frame(painter, area, (f"−{edge}", "0", edge), (f"−{edge}", "0", edge), square=True)
    if shown.reach is None:
        _nothing(painter, place, say("Working it out …"))
        return

    def point(a: float, b: float) -> QPointF:
        return QPointF(
            place.center().x() + a / CHROMA * place.width() / 2,
            place.center().y() - b / CHROMA * place.height() / 2,
        )

    outline = QPolygonF([point(a, b) for a, b in shown.reach.tolist()])
    fill = QColor(theme().accent)
    fill.setAlpha(50)
    painter.setClipRect(place)
    painter.setBrush(fill)
    painter.setPen(QPen(QColor(theme().accent), 1.5))
    painter.drawPolygon(outline)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setClipping(False)


def _opacity(painter: QPainter, area: QRectF, shown: Shown) -> None:
    hits = [str(one) for one in range(HITS + 1)]
    place = _frame(painter, area, hits, ("0", "50", "100"))
    inks = InkSet.of(shown.printer, shown.condition)
    line = QPolygonF()
    for count in range(1, HITS + 1):
        line.append(_at(place, count / HITS, white_contrast(count, inks)))
    painter.setPen(QPen(QColor(theme().accent), 2))
    painter.drawPolyline(line)
    painter.setBrush(QColor(theme().accent))
    for at in range(line.size()):
        painter.drawEllipse(line.at(at), 3, 3)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _drift(painter: QPainter, area: QRectF, shown: Shown) -> None:
    condition = shown.condition
    highest = max([2 * condition.most_drift, *(one.mean for one in condition.drifts)])
    place = _frame(painter, area, (), ("0", f"{highest / 2:.1f}", f"{highest:.1f}"))
    if not condition.drifts:
        _nothing(painter, place, say("No strip was read since then."))
        return
    limit = place.bottom() - place.height() * condition.most_drift / highest
    painter.setPen(QPen(QColor(theme().caution), 1.5, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(place.left(), limit), QPointF(place.right(), limit))
    step = place.width() / (len(condition.drifts) + 1)
    line = QPolygonF(
        [
            QPointF(place.left() + step * at, place.bottom() - place.height() * one.mean / highest)
            for at, one in enumerate(condition.drifts, start=1)
        ]
    )
    painter.setPen(QPen(QColor(theme().accent), 2))
    painter.setBrush(QColor(theme().accent))
    painter.drawPolyline(line)
    for at in range(line.size()):
        painter.drawEllipse(line.at(at), 3, 3)
    painter.setBrush(Qt.BrushStyle.NoBrush)
