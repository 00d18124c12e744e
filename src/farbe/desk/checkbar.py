"""The line at the bottom: findings with their fixes, and work that is going on."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from farbe.checks.check import Check, Weight
from farbe.desk.marks import paint_weight
from farbe.desk.results import Findings
from farbe.desk.theme import font, theme
from farbe.desk.workers import Task
from farbe.mishap import Mishap

MESSAGE_MS = 9000
_WORDS = {Weight.STOP: "stop", Weight.CAUTION: "caution", Weight.NOTE: "note"}


class CheckBar(QWidget):
    """Counts, the finding in view, its fix. A message or a task's progress takes its place."""

    fix = Signal(object)
    visit = Signal(object)
    cancel = Signal(object)
    #: A report of a mishap is wanted.
    report = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(38)
        self.setAccessibleName("Checks")
        self._checks: tuple[Check, ...] = ()
        self._at = 0
        self._open = False
        self._message = ""
        self._task: Task | None = None
        self._mishap: Mishap | None = None
        self._fade = QTimer(self)
        self._fade.setSingleShot(True)
        self._fade.timeout.connect(lambda: self.say(""))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 5, 12, 5)
        row.setSpacing(6)
        row.addStretch()
        self._fix = self._button("Fix", "Fix what is in view")
        self._fix.clicked.connect(self._mend)
        self._back = self._button("‹", "Previous finding")
        self._next = self._button("›", "Next finding")
        self._back.clicked.connect(lambda: self._turn(-1))
        self._next.clicked.connect(lambda: self._turn(1))
        self._stop = self._button("Cancel", "Cancel the work going on")
        self._stop.clicked.connect(lambda: self._task and self.cancel.emit(self._task.key))
        self._report = self._button("Save a report…", "Save a report of what went wrong")
        self._report.clicked.connect(lambda: self.report.emit(self._reported()))
        for button in (self._report, self._fix, self._back, self._next, self._stop):
            row.addWidget(button)
        self._refresh()

    def _button(self, text: str, name: str) -> QPushButton:
        t = theme()
        button = QPushButton(text)
        button.setAccessibleName(name)
        button.setToolTip(name)
        button.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        button.setStyleSheet(
            f"QPushButton {{ background: #454545; color: {t.footer_text};"
            " border: 1px solid #6e6e6e; padding: 2px 10px; min-height: 20px; }"
            "QPushButton:focus { border: 2px solid #9cc0f2; padding: 1px 9px; }"
            "QPushButton:disabled { color: #8a8a8a; background: #333333; border-color: #4c4c4c; }"
        )
        return button

    def show_findings(self, findings: Findings | None, *, is_open: bool) -> None:
        self._open = is_open
        checks = findings.checks if findings else ()
        before = self._current()
        self._checks = checks
        codes = [check.code for check in checks]
        # A stop that appears comes to the front; otherwise the finding in view stays.
        stopped = bool(checks) and checks[0].weight is Weight.STOP
        keeps = before is not None and before.code in codes and not stopped
        self._at = codes.index(before.code) if before is not None and keeps else 0
        self._refresh()

    def say(self, text: str) -> None:
        """Show a message for a while; none takes it away."""
        self._message, self._mishap = text, None
        if text:
            self._fade.start(MESSAGE_MS)
        self._refresh()

    def tell(self, mishap: Mishap) -> None:
        """Say that Farbe itself failed, until something else is said."""
        self._fade.stop()
        self._message, self._mishap = mishap.sentence, mishap
        self._refresh()

    def _reported(self) -> Mishap | None:
        """The mishap that is being said, if that is what is said."""
        if self._message:
            return self._mishap
        current = self._current()
        return current.mishap if current is not None else None

    def show_task(self, task: Task | None) -> None:
        self._task = task
        self._refresh()

    @property
    def shown_text(self) -> str:
        """What is being said."""
        current = self._current()
        if self._task is not None:
            return f"{self._task.title} {self._task.done * 100:.0f} %"
        if self._message:
            return self._message
        if not self._open:
            return "Choose what you print on, or open a job."
        return current.text if current else "Nothing to say about this job."

    def _current(self) -> Check | None:
        return self._checks[self._at] if self._at < len(self._checks) else None

    def _turn(self, by: int) -> None:
        self._message, self._mishap = "", None
        if self._checks:
            self._at = (self._at + by) % len(self._checks)
        self._refresh()

    def _mend(self) -> None:
        current = self._current()
        if current is not None and current.fix is not None:
            self.fix.emit(current)

    def _refresh(self) -> None:
        current, working = self._current(), self._task is not None
        fixable = current is not None and current.fix is not None and not self._message
        self._fix.setVisible(not working and fixable)
        if current is not None and current.fix is not None:
            self._fix.setText(current.fix.words)
        for button in (self._back, self._next):
            button.setVisible(not working and len(self._checks) > 1)
        self._stop.setVisible(working)
        self._report.setVisible(not working and self._reported() is not None)
        self.setAccessibleDescription(self.shown_text)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        current = self._current()
        if current is not None and event.button() == Qt.MouseButton.LeftButton:
            self.visit.emit(current.station)

    def paintEvent(self, _: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(t.footer))
        painter.setFont(font(13))
        metrics = QFontMetricsF(painter.font())
        x = 16.0
        for weight in Weight if self._open else ():
            count = sum(check.weight is weight for check in self._checks)
            paint_weight(painter, QRectF(x, 13.5, 11, 11), weight)
            words = f"{count} {_WORDS[weight]}{'' if count == 1 else 's'}"
            painter.setPen(QColor(t.footer_text))
            painter.drawText(QRectF(x + 18, 0, 120, 38), Qt.AlignmentFlag.AlignVCenter, words)
            x += 18 + metrics.horizontalAdvance(words) + 18
        x += 8
        shown = [
            b
            for b in (self._report, self._fix, self._back, self._next, self._stop)
            if b.isVisible()
        ]
        right = min((float(b.x()) for b in shown), default=float(self.width())) - 16
        if len(self._checks) > 1 and self._task is None:
            at = f"{self._at + 1} of {len(self._checks)}"
            width = metrics.horizontalAdvance(at)
            painter.setPen(QColor("#a8a8a8"))
            painter.drawText(
                QRectF(right - width, 0, width + 2, 38), Qt.AlignmentFlag.AlignVCenter, at
            )
            right -= width + 16
        if self._task is not None:
            bar = QRectF(right - 180, 16, 180, 6)
            painter.fillRect(bar, QColor("#4c4c4c"))
            bar.setWidth(180 * self._task.done)
            painter.fillRect(bar, QColor("#9cc0f2"))
            right -= 196
        painter.setPen(QColor(t.footer_text))
        text = metrics.elidedText(self.shown_text, Qt.TextElideMode.ElideRight, max(0.0, right - x))
        painter.drawText(QRectF(x, 0, right - x, 38), Qt.AlignmentFlag.AlignVCenter, text)
        painter.end()
