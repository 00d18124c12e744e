"""The line at the bottom: findings with their fixes, and work that is going on."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QPushButton, QSizePolicy, QWidget

from farbe.checks.accept import can_be_accepted
from farbe.checks.check import Check
from farbe.checks.explained import EXPLAINED
from farbe.checks.weight import Weight
from farbe.desk.foldingbar import FoldingBar
from farbe.desk.marks import paint_weight
from farbe.desk.theme import fixed, font, px, theme
from farbe.desk.workers import Task
from farbe.follows.findings import Findings
from farbe.mishap import Mishap
from farbe.said import say, say_count

MESSAGE_MS = 9000
#: Its height with one line; what the words of a finding keep, before buttons fold.
HIGH, LEAST_WORDS = 38, 300


def _counted(weight: Weight, count: int) -> str:
    match weight:
        case Weight.STOP:
            return say_count(count, "{count} stop", "{count} stops")
        case Weight.CAUTION:
            return say_count(count, "{count} caution", "{count} cautions")
        case Weight.NOTE:
            return say_count(count, "{count} note", "{count} notes")


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
        fixed(self, high=HIGH)
        self.setAccessibleName(say("Checks"))
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
        #: Where the words of what is in view stand, left of the buttons.
        self._room = QRectF()
        self._bar = FoldingBar(say("More to do about what is in view"), gap=6)
        self._bar.setParent(self)
        self._fix = self._button(say("Fix"), say("Fix what is in view"))
        self._fix.clicked.connect(self._mend)
        self._show = self._button(say("Show"), say("Show the next place of what is in view (F8)"))
        self._show.clicked.connect(self.next_place)
        self._accept = self._button(say("It is meant"), say("Accept the caution in view (F9)"))
        self._accept.clicked.connect(self.accept_current)
        self._back = self._button("‹", say("Previous finding"))
        self._next = self._button("›", say("Next finding"))
        self._back.clicked.connect(lambda: self._turn(-1))
        self._next.clicked.connect(lambda: self._turn(1))
        self._stop = self._button(say("Cancel"), say("Cancel the work going on"))
        self._stop.clicked.connect(lambda: self._task and self.cancel.emit(self._task.key))
        self._report = self._button(say("Save a report…"), say("Save a report of what went wrong"))
        self._report.clicked.connect(lambda: self.report.emit(self._reported()))
        for button in (
            self._back, self._next, self._stop, self._fix, self._show, self._accept, self._report,
        ):  # fmt: skip
            self._bar.add(button)
        self._refresh()

    def _button(self, text: str, name: str) -> QPushButton:
        button = QPushButton(text)
        button.setAccessibleName(name)
        button.setToolTip(name)
        button.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        button.setProperty("role", "footer")
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
            return say("Choose what you print on, or open a job.")
        if current is None:
            return say("Nothing to say about this job.")
        return (
            say("Accepted: {current}", current=current.text) if current.accepted else current.text
        )

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
        self._bar.want(self._fix, not working and fixable)
        if current is not None and current.fix is not None:
            self._fix.setText(current.fix.words)
        plain = not working and not self._message and current is not None
        self._bar.want(self._show, plain and bool(current and current.places))
        shown = current is not None and len(current.places) > 1 and self._place >= 0
        many = (
            say(" {place} of {places}", place=self._place + 1, places=len(current.places))
            if current and shown
            else ""
        )
        self._show.setText(say("Show{many}", many=many))
        self._bar.want(self._accept, plain and current is not None and can_be_accepted(current))
        if current is not None:
            self._accept.setText(say("Ask again") if current.accepted else say("It is meant"))
        for button in (self._back, self._next):
            self._bar.want(button, not working and len(self._checks) > 1)
        self._bar.want(self._stop, working)
        self._bar.want(self._report, not working and self._reported() is not None)
        self.setAccessibleDescription(self.shown_text)
        self._arrange()
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._arrange()

    def event(self, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.FontChange, QEvent.Type.LayoutRequest):
            self._arrange()
        return super().event(event)

    def _counts(self) -> list[tuple[Weight, str]]:
        """How many of each there are; in narrow windows the marks alone tell of what."""
        said = []
        for weight in Weight if self._open else ():
            count = sum(c.weight is weight and not c.accepted for c in self._checks)
            words = _counted(weight, count) if self.width() >= px(1000) else str(count)
            said.append((weight, words))
        return said

    def _place_words(self) -> str:
        return say("{at} of {checks}", at=self._at + 1, checks=len(self._checks))

    def _arrange(self) -> None:
        """Buttons at the right, words between; higher where the words need more lines."""
        metrics = QFontMetricsF(font(13))
        left = float(px(24))
        for _, words in self._counts():
            left += px(36) + metrics.horizontalAdvance(words)
        self._bar.arrange()
        wanted, least = self._bar.sizeHint().width(), self._bar.minimumSizeHint().width()
        wide = min(wanted, max(least, round(self.width() - left - px(LEAST_WORDS))))
        right, high = self.width() - px(12) - wide, self._bar.sizeHint().height()
        self._bar.setGeometry(right, (self.height() - high) // 2, wide, high)
        right -= px(16) if wide else 0
        if self._task is not None:
            right -= px(196)
        elif len(self._checks) > 1:
            right -= round(metrics.horizontalAdvance(self._place_words())) + px(16)
        self._room = QRectF(left, 0, max(0.0, right - left), self.height())
        self._set_height()

    def _set_height(self) -> None:
        text, room, high = self.shown_text, self._room.width(), px(HIGH)
        if room > 0 and QFontMetricsF(font(13)).horizontalAdvance(text) > room:
            wrap = int(Qt.TextFlag.TextWordWrap)
            box = QFontMetricsF(font(11)).boundingRect(QRectF(0, 0, room, 10_000), wrap, text)
            high = max(high, round(box.height()) + px(10))
        if self.height() != high:
            self.setFixedHeight(high)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        current = self._current()
        if current is not None and event.button() == Qt.MouseButton.LeftButton:
            self.visit.emit(current)

    def _told(self, text: str) -> str:
        """All that is said, and what the finding in view means."""
        current = self._current()
        if current is None or self._task is not None or self._message:
            return text
        why, to_do = EXPLAINED.get(current.code, ("", ""))
        return f"{text}\n\n{why}\n{to_do}".strip()

    def _paint_text(self, painter: QPainter, area: QRectF) -> None:
        """What is said, in one line; where it is long, in smaller ones."""
        text = self.shown_text
        self.setToolTip(self._told(text))
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        if QFontMetricsF(painter.font()).horizontalAdvance(text) > area.width():
            painter.setFont(font(11))
            flags |= Qt.TextFlag.TextWordWrap
        painter.drawText(area, int(flags), text)

    def paintEvent(self, _: QPaintEvent) -> None:
        t, area = theme(), QRectF(self.rect())
        painter = QPainter(self)
        painter.fillRect(area, QColor(t.footer))
        painter.setFont(font(13))
        metrics = QFontMetricsF(painter.font())
        middle, side = area.center().y(), px(11)
        left = Qt.AlignmentFlag.AlignVCenter
        x = float(px(16))
        for weight, words in self._counts():
            paint_weight(painter, QRectF(x, middle - side / 2, side, side), weight)
            painter.setPen(QColor(t.footer_text))
            wide = metrics.horizontalAdvance(words)
            painter.drawText(QRectF(x + px(18), 0, wide + 4, area.height()), left, words)
            x += px(36) + wide
        after = self._room.right() + px(16)
        if self._task is not None:
            bar = QRectF(after, middle - 3, px(180), 6)
            painter.fillRect(bar, QColor("#4c4c4c"))
            bar.setWidth(px(180) * self._task.done)
            painter.fillRect(bar, QColor("#9cc0f2"))
        elif len(self._checks) > 1:
            painter.setPen(QColor("#a8a8a8"))
            painter.drawText(QRectF(after, 0, px(80), area.height()), left, self._place_words())
        painter.setPen(QColor(t.footer_text))
        self._paint_text(painter, self._room)
        painter.end()
