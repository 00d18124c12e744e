"""The line at the bottom: findings with their fixes, and work that is going on."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from farbe.checks.accept import can_be_accepted
from farbe.checks.check import Check
from farbe.checks.weight import Weight
from farbe.desk.marks import paint_weight
from farbe.desk.results import Findings
from farbe.desk.theme import fixed, font, theme
from farbe.desk.workers import Task
from farbe.mishap import Mishap

MESSAGE_MS = 9000
_WORDS = {Weight.STOP: "stop", Weight.CAUTION: "caution", Weight.NOTE: "note"}


class CheckBar(QWidget):
    """Counts, the finding in view, its fix. A message or a task's progress takes its place."""

    fix = Signal(object)
    #: Where a finding is set is wanted.
    visit = Signal(object)
    cancel = Signal(object)
    #: A place of what is in view is to be shown: the finding and which of its places.
    show_place = Signal(object, int)
    #: The caution in view is meant, or is to be asked about again.
    accept = Signal(object)
    #: A report of a mishap is wanted.
    report = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        fixed(self, high=38)
        self.setAccessibleName("Checks")
        self._checks: tuple[Check, ...] = ()
        self._at = 0
        self._place = -1
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
        self._show = self._button("Show", "Show the next place of what is in view (F8)")
        self._show.clicked.connect(self.next_place)
        self._accept = self._button("It is meant", "Accept the caution in view (F9)")
        self._accept.clicked.connect(self.accept_current)
        self._back = self._button("‹", "Previous finding")
        self._next = self._button("›", "Next finding")
        self._back.clicked.connect(lambda: self._turn(-1))
        self._next.clicked.connect(lambda: self._turn(1))
        self._stop = self._button("Cancel", "Cancel the work going on")
        self._stop.clicked.connect(lambda: self._task and self.cancel.emit(self._task.key))
        self._report = self._button("Save a report…", "Save a report of what went wrong")
        self._report.clicked.connect(lambda: self.report.emit(self._reported()))
        for button in (
            self._report, self._show, self._fix, self._accept, self._back, self._next, self._stop,
        ):  # fmt: skip
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
        before, known = self._current(), {check.code for check in self._checks}
        self._checks = checks
        codes = [check.code for check in checks]
        # What is new and no mere note comes to the front; otherwise the finding in view stays.
        new = [
            at for at, check in enumerate(checks)
            if check.code not in known and check.weight is not Weight.NOTE and not check.accepted
        ]  # fmt: skip
        keeps = before is not None and before.code in codes and not new
        self._at = new[0] if new else codes.index(before.code) if before and keeps else 0
        if before is None or self._current() is None or self._current() != before:
            self._place = -1
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

    def give_up(self) -> bool:
        """End the work that is shown, or put the message away; whether there was any."""
        if self._task is not None:
            self.cancel.emit(self._task.key)
            return True
        if self._message:
            self.say("")
            return True
        return False

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
        if current is None:
            return "Nothing to say about this job."
        return f"Accepted: {current.text}" if current.accepted else current.text

    def _current(self) -> Check | None:
        return self._checks[self._at] if self._at < len(self._checks) else None

    def _turn(self, by: int) -> None:
        self._message, self._mishap = "", None
        if self._checks:
            self._at = (self._at + by) % len(self._checks)
            self._place = -1
        self._refresh()

    def next_place(self) -> None:
        """Show the next place of the finding in view."""
        current = self._current()
        if current is not None and current.places:
            self._place = (self._place + 1) % len(current.places)
            self.show_place.emit(current, self._place)
            self._refresh()

    def accept_current(self) -> None:
        """Say that the caution in view is meant; or, if it was said, ask about it again."""
        current = self._current()
        if current is not None and can_be_accepted(current):
            self.accept.emit(current)

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
        plain = not working and not self._message and current is not None
        self._show.setVisible(plain and bool(current and current.places))
        shown = current is not None and len(current.places) > 1 and self._place >= 0
        many = f" {self._place + 1} of {len(current.places)}" if current and shown else ""
        self._show.setText(f"Show{many}")
        self._accept.setVisible(plain and current is not None and can_be_accepted(current))
        if current is not None:
            self._accept.setText("Ask again" if current.accepted else "It is meant")
        for button in (self._back, self._next):
            button.setVisible(not working and len(self._checks) > 1)
        self._stop.setVisible(working)
        self._report.setVisible(not working and self._reported() is not None)
        self.setAccessibleDescription(self.shown_text)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        current = self._current()
        if current is not None and event.button() == Qt.MouseButton.LeftButton:
            self.visit.emit(current)

    def _paint_text(self, painter: QPainter, area: QRectF) -> None:
        """What is said, in one line; where it is long, in two smaller ones."""
        metrics, text = QFontMetricsF(painter.font()), self.shown_text
        self.setToolTip(text)
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        if metrics.horizontalAdvance(text) > area.width():
            painter.setFont(font(11))
            metrics = QFontMetricsF(painter.font())
            # Words that do not fit the first line leave a part of it empty.
            text = metrics.elidedText(text, Qt.TextElideMode.ElideRight, 1.85 * area.width())
            flags |= Qt.TextFlag.TextWordWrap
        painter.drawText(area, int(flags), text)

    def paintEvent(self, _: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(t.footer))
        painter.setFont(font(13))
        metrics = QFontMetricsF(painter.font())
        x = 16.0
        for weight in Weight if self._open else ():
            count = sum(c.weight is weight and not c.accepted for c in self._checks)
            paint_weight(painter, QRectF(x, 13.5, 11, 11), weight)
            words = f"{count} {_WORDS[weight]}{'' if count == 1 else 's'}"
            painter.setPen(QColor(t.footer_text))
            painter.drawText(QRectF(x + 18, 0, 120, 38), Qt.AlignmentFlag.AlignVCenter, words)
            x += 18 + metrics.horizontalAdvance(words) + 18
        x += 8
        shown = [
            b
            for b in (
                self._report,
                self._show,
                self._fix,
                self._accept,
                self._back,
                self._next,
                self._stop,
            )
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
        self._paint_text(painter, QRectF(x, 0, max(0.0, right - x), 38))
        painter.end()
