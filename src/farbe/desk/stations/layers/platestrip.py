"""The strip of plates: each ink's plate, small, with how much of a piece it covers."""

from __future__ import annotations

import math

import cv2
import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QHideEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QShowEvent,
)
from PySide6.QtWidgets import (
    QAbstractButton,
    QHBoxLayout,
    QMenu,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from farbe.desk.handout import copy_picture, drag_picture, is_drag
from farbe.desk.images import alpha_image, covered, plate_picture
from farbe.desk.marks import pattern
from farbe.desk.printbar import PrintBar
from farbe.desk.stations.base import Desk
from farbe.desk.stations.worlds import PLACE_COLOURS
from farbe.desk.theme import bounded, fixed, font, px, theme
from farbe.follows.preview import Drawn, Preview
from farbe.kept import Kept
from farbe.model.layer import Layer
from farbe.model.printer import PROCESS, LayerKind
from farbe.render.glimpse import PrintPart
from farbe.said import say
from farbe.separate.choke import Plate

#: How high the strip of plates is, and how many pictures of a plate are kept.
HIGH, LAST = 112, 3
#: Plates that are shown, and painted, in one turn.
TOGETHER = 2
#: Pixels along either side of a plate that are enough to show it small.
SMALL = HIGH
#: Plates that were shown last, small, with how much they cover, by where they are in memory, where
#: they are kept: coarse and fine ones take turns, and most edits leave most of them as they are.
_SMALLS: Kept[int, tuple[Plate, float, Plate]] = Kept(16 * LAST)


#: Places of a plate, as shares of its width and height, each with a colour.
Places = tuple[tuple[float, float, str], ...]


class PlateThumb(QAbstractButton):
    """One ink's plate, small, with its mean coverage of the piece."""

    def __init__(self) -> None:
        super().__init__()
        self._plate: Plate | None = None
        self._shown: tuple[object, ...] = ()
        #: Plates that were shown last, as they are shown.
        self._inked: Kept[tuple[object, ...], tuple[QImage, Plate]] = Kept(LAST)
        self.kind = LayerKind.COLOUR
        self.colour = "#000000"
        self.share = 0.0
        #: Where something is the matter, as shares of the plate, with the colour of its mark.
        self.places: Places = ()
        self.setCheckable(True)
        bounded(self, least_wide=64, least_high=44)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setToolTip(say("Choose this plate; drag it out as a picture"))
        self._pressed_at: QPointF | None = None

    def take(self, plate: Plate, name: str, kind: LayerKind, colour: str, places: Places) -> bool:
        """Show a plate, and tell whether it is another than before.

        Parameters
        ----------
        plate : uint8 (height, width)
        name : of its ink
        kind, colour : what it is filled with
        places : where something is the matter with it
        """
        self._plate, self.share = plate, small_plate(plate)[1]
        self.kind, self.colour, self.places = kind, colour, places
        # Most edits leave most plates as they are.
        shown = id(plate), name, kind, colour, places
        if shown == self._shown:
            return False
        self._shown = shown
        self.setText(name)
        self.setToolTip(say("{name}: choose this plate, or drag it out as a picture", name=name))
        share = f"{self.share:.0f}"
        self.setAccessibleName(say("Plate {name}, {share} percent", name=name, share=share))
        self.update()
        return True

    @property
    def picture(self) -> QImage | None:
        """The plate as a picture for other programs, in full."""
        return None if self._plate is None else plate_picture(alpha_image(self._plate))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        self._pressed_at = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        super().mouseMoveEvent(event)
        if is_drag(self._pressed_at, event.position()) and (picture := self.picture) is not None:
            self._pressed_at = None
            drag_picture(self, picture, self.text())

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu, plate = QMenu(self), self._plate
        if plate is not None:
            menu.addAction(
                say("Copy the plate as a picture"),
                lambda: copy_picture(plate_picture(alpha_image(plate))),
            )
            menu.popup(event.globalPos())

    def _in_ink(self, plate: Plate, box: QRectF, size: QSize) -> QImage:
        """A plate as it is shown, in its ink; painted once."""
        ratio = self.devicePixelRatioF()

        def made() -> tuple[QImage, Plate]:
            brush = QColor(self.colour) if self.kind is LayerKind.COLOUR else pattern(self.kind)
            seen = (math.ceil(side * ratio) for side in box.size().toTuple())
            small = reduced(small_plate(plate)[0], *seen)
            return covered(size, box, alpha_image(small), brush, ratio=ratio), plate

        of = id(plate), box.getRect(), size.toTuple(), self.kind, self.colour, ratio
        return self._inked.get(of, made)[0]

    def paintEvent(self, _: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        area = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        # Inks show on light grey, white and varnish on dark.
        inks = self.kind is LayerKind.COLOUR
        painter.fillRect(area, QColor("#d8d8d8" if inks else "#565656"))
        if self._plate is not None:
            side = min(area.width() - 12, area.height() - px(30))
            high, wide = self._plate.shape
            scale = side / max(wide, high)
            box = QRectF(0, 0, wide * scale, high * scale)
            box.moveCenter(QPointF(area.center().x(), area.top() + px(18) + side / 2))
            seen = box.toAlignedRect()
            box_there = box.translated(-QPointF(seen.topLeft()))
            inked = self._in_ink(self._plate, box_there, seen.size())
            painter.drawImage(seen.topLeft(), inked)
            for x, y, colour in self.places:
                at = QPointF(box.left() + x * box.width(), box.top() + y * box.height())
                painter.setPen(QPen(QColor(0, 0, 0, 160), 0.8))
                painter.setBrush(QColor(colour))
                painter.drawEllipse(at, 2.2, 2.2)
        painter.setFont(font(11))
        painter.setPen(QColor("#202020" if inks else "#f4f4f4"))
        room = area.adjusted(6, 3, -6, 0)
        mode = Qt.TextElideMode.ElideRight
        words = painter.fontMetrics().elidedText(self.text(), mode, int(room.width()))
        painter.drawText(room, Qt.AlignmentFlag.AlignLeft, words)
        painter.drawText(
            area.adjusted(6, 0, -5, -2),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom,
            f"{self.share:.0f} %",
        )
        chosen = self.isChecked() or self.hasFocus()
        painter.setPen(QPen(QColor(t.accent if chosen else "#8a8a8a"), 3 if chosen else 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(area)
        painter.end()


class PlateStrip(QWidget):
    """Thumbnails of every plate; choosing one chooses its layer."""

    picked = Signal(str, int)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        holder, scroll = QWidget(), QScrollArea()
        self._row = QHBoxLayout(holder)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(6)
        scroll.setWidget(holder)
        scroll.setWidgetResizable(True)
        scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        for clear in (scroll, holder):
            clear.setProperty("role", "clear")
        scroll.viewport().setAutoFillBackground(False)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 8)
        column.addWidget(scroll)
        self.thumbs: list[tuple[str, int, PlateThumb]] = []
        #: Plates that are not shown yet, with what each is shown by.
        self._waiting: list[tuple[PlateThumb, tuple[Plate, str, LayerKind, str, Places]]] = []
        self._marked: tuple[str, int | None] = ("", None)
        fixed(self, high=HIGH)
        # After the picture, which is painted alone.
        for told in (desk.results.preview_rests, desk.results.findings_changed):
            told.connect(self._follow_later)

    def _places(self, preview: Preview, layer: Layer) -> Places:
        """Where findings are on a layer's plates, as shares of the picture."""
        found = []
        width, height = preview.size
        for check, place in self._desk.results.places_here():
            if check.about == layer.name or (not check.about and layer.kind is LayerKind.WHITE):
                x, y = place.left + place.width / 2, place.bottom + place.height / 2
                found.append((x / width + 0.5, 0.5 - y / height, PLACE_COLOURS[check.weight]))
        return tuple(found)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._desk.results.make_beside(self._prepare, True)
        self._follow_later()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._desk.results.make_beside(self._prepare, False)

    def _prepare(self, drawn: Drawn) -> None:
        for _, _, _, _, plate in list_plates(drawn):
            small_plate(plate)

    def _follow_later(self) -> None:
        if self.isVisible():
            self._desk.workers.once_drawn("plates", self._follow)

    def _follow(self) -> None:
        if self.isVisible():
            self._list()
            self._show_some()

    def _show_some(self) -> None:
        """Show as many plates as are painted in one turn; the others follow."""
        changed = 0
        while self._waiting and changed < TOGETHER:
            thumb, shown = self._waiting.pop(0)
            changed += thumb.take(*shown)
        if self._waiting:
            self._desk.workers.once_drawn("plates", self._show_some)

    def parts(self) -> list[list[QWidget]]:
        """What is painted in one turn each: the strip with its first plates, then the others."""
        thumbs: list[QWidget] = [thumb for _, _, thumb in self.thumbs]
        others = [thumbs[at : at + TOGETHER] for at in range(TOGETHER, len(thumbs), TOGETHER)]
        return [[self], *others]

    def _list(self) -> None:
        """Have a small picture for each plate, and those that are to be shown wait."""
        preview = self._desk.results.preview
        plates = list_plates(preview) if preview else []
        while len(self.thumbs) < len(plates):
            thumb = PlateThumb()
            at = len(self.thumbs)
            thumb.clicked.connect(lambda _=False, at=at: self.picked.emit(*self.thumbs[at][:2]))
            self._row.addWidget(thumb)
            self.thumbs.append(("", 0, thumb))
        for i, (_, _, thumb) in enumerate(self.thumbs):
            thumb.setVisible(i < len(plates))
        waiting = []
        for i, (layer, index, name, colour, plate) in enumerate(plates):
            thumb = self.thumbs[i][2]
            self.thumbs[i] = (layer.name, index, thumb)
            places = self._places(preview, layer) if preview is not None else ()
            waiting.append((thumb, (plate, name, layer.kind, colour, places)))
        self._waiting = waiting
        self.mark(*self._marked)

    def mark(self, layer: str, index: int | None = None) -> None:
        """Show which plates are in view: all of a layer, or one."""
        self._marked = layer, index
        for name, at, thumb in self.thumbs:
            thumb.setChecked(name == layer and (index is None or index == at))

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor("#6c6c6c"))
        painter.end()


def percent_of(plate: Plate) -> float:
    """How much of a piece a plate covers."""
    return float(cv2.sumElems(plate)[0]) / plate.size / 2.55


def small_plate(plate: Plate) -> tuple[Plate, float]:
    """A plate small enough to show it so, and the share that it covers, in percent; kept."""
    small, share, _ = _SMALLS.get(
        id(plate), lambda: (halved(plate, SMALL), percent_of(plate), plate)
    )
    return small, share


def reduced(plate: Plate, wide: int, high: int) -> Plate:
    """A plate made smaller, if it is larger, by what its pixels cover in the mean."""
    if plate.shape[1] <= wide or plate.shape[0] <= high or not wide or not high:
        return plate
    return np.asarray(cv2.resize(plate, (wide, high), interpolation=cv2.INTER_AREA), np.uint8)


def halved(plate: Plate, least: int) -> Plate:
    """A plate halved as often as both its sides keep so many pixels.

    Qt makes pictures smaller in one step and in four channels, which takes many times as long.
    """
    while min(plate.shape) >= 2 * least:
        high, wide = (side // 2 for side in plate.shape)
        even = plate[: 2 * high, : 2 * wide]
        plate = np.asarray(cv2.resize(even, (wide, high), interpolation=cv2.INTER_AREA), np.uint8)
    return plate


def list_plates(preview: PrintPart) -> list[tuple[Layer, int, str, str, Plate]]:
    """Every plate with its layer, place in the layer, name and colour."""
    result = []
    for layer in preview.layers:
        for index, plate in enumerate(preview.plates_of(layer.name)):
            colour = layer.kind is LayerKind.COLOUR
            name = PROCESS[index].words if colour else layer.words
            result.append(
                (layer, index, name, PROCESS[index].shown if colour else "#ffffff", plate)
            )
    return result


class _Stack(QWidget):
    """Gives the strip of plates no more than its share of a low window, and says what it shows."""

    def __init__(self, strip: QWidget, bar: PrintBar) -> None:
        super().__init__()
        self._strip, self._bar = strip, bar

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._bar.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._strip.setFixedHeight(min(px(HIGH), round(self.height() * 0.36)))


def stacked(desk: Desk, canvas: QWidget, strip: QWidget) -> QWidget:
    """A picture under the line that says which print it shows, over the strip of plates."""
    bar = PrintBar(desk.session, desk.results)
    picture = _Stack(strip, bar)
    column = QVBoxLayout(picture)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(0)
    column.addWidget(bar)
    column.addWidget(canvas, 1)
    column.addWidget(strip)
    return picture
