"""The five stations, down the left side."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QSizePolicy, QVBoxLayout, QWidget

from farbe.checks.weight import Weight
from farbe.desk.marks import paint_station, paint_weight
from farbe.desk.theme import area_of, drawn_at_scale, fixed, plain_font, px, theme
from farbe.follows.findings import Findings
from farbe.plan.stations import Station
from farbe.said import say


class StationButton(QAbstractButton):
    def __init__(self, station: Station, number: int) -> None:
        super().__init__()
        self.station = station
        self.weight: Weight | None = None
        self.setText(station.words)
        self.setCheckable(True)
        self.setAccessibleName(say("Station {station}", station=station.words))
        self.setToolTip(say("{station} (Alt+{number})", station=station.words, number=number))
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Preferred)

    def sizeHint(self) -> QSize:
        return QSize(px(84), px(72))

    def minimumSizeHint(self) -> QSize:
        return QSize(px(84), px(48))

    def paintEvent(self, _: QPaintEvent) -> None:
        t, area = theme(), area_of(self)
        painter = QPainter(self)
        drawn_at_scale(painter)
        # In low windows sign and word move together.
        top = min(14.0, max(4.0, (area.height() - 44) / 2))
        chosen = self.isChecked()
        if chosen or self.underMouse():
            painter.fillRect(area, QColor(t.panel))
        if chosen:
            painter.fillRect(QRectF(0, 0, 3, area.height()), QColor(t.accent))
        colour = QColor(t.text if chosen else t.faint)
        paint_station(painter, QRectF(area.center().x() - 13, top, 26, 22), self.station, colour)
        painter.setFont(plain_font(12.5, bold=chosen))
        painter.setPen(colour)
        painter.drawText(
            QRectF(0, top + 26, area.width(), 18), Qt.AlignmentFlag.AlignCenter, self.text()
        )
        if self.weight in (Weight.STOP, Weight.CAUTION):
            paint_weight(painter, QRectF(area.right() - 23, 9, 11, 11), self.weight)
        if self.hasFocus():
            painter.setPen(QColor(t.accent))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(area.adjusted(5, 4, -5, -4))
        painter.end()


class Rail(QWidget):
    chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        fixed(self, wide=84)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self._group = QButtonGroup(self)
        self.buttons: dict[Station, StationButton] = {}
        for number, station in enumerate(Station, start=1):
            button = StationButton(station, number)
            button.clicked.connect(lambda _=False, s=station: self.chosen.emit(s))
            self._group.addButton(button)
            column.addWidget(button)
            self.buttons[station] = button
        column.addStretch()

    def choose(self, station: Station) -> None:
        self.buttons[station].setChecked(True)

    def show_findings(self, findings: Findings | None) -> None:
        worst: dict[Station, Weight] = {}
        for check in findings.checks if findings else ():
            if not check.accepted:
                worst.setdefault(check.station, check.weight)
        for station, button in self.buttons.items():
            if button.weight is worst.get(station):
                continue
            button.weight = worst.get(station)
            said = {Weight.STOP: say(", stops the job"), Weight.CAUTION: say(", has a caution")}
            found = said.get(button.weight, "") if button.weight else ""
            button.setAccessibleName(
                say("Station {station}{state}", station=station.words, state=found)
            )
            button.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme().rail))
        painter.end()
