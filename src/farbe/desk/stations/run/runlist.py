"""The run list and the test press's bed."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QWidget

from farbe.desk.entering import all_taken
from farbe.desk.following import Following
from farbe.desk.images import paint_picture
from farbe.desk.pressdesk import PressDesk
from farbe.desk.stations.base import Desk
from farbe.desk.stations.worlds import BedWorld
from farbe.desk.theme import drawn_at_scale, fixed, font, plain_font, px, theme
from farbe.estimate.steps import Step
from farbe.folders import queue_folder
from farbe.layout.faced import Faced
from farbe.layout.frame import printer_frame
from farbe.model.receiver import Drive
from farbe.plan.sentence import duration
from farbe.queue.store import Queue
from farbe.queue.ticks import run_list_key, tick, ticked
from farbe.said import inside, say, spoken

#: Width of what is clicked to tick a step.
MARK = 46


class RunList(Following, QWidget):
    """The steps in time order; done ones are ticked, by the press or with a click."""

    SHOWN_LATER = True

    ROW, TOP, WIDE = 54, 48, 262
    #: A step was clicked: where its figures come from is wanted.
    pointed_at = Signal(object)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.done = 0
        self.running = False
        self._key = ""
        #: The steps as they are listed, and how many of them are ticked.
        self._shown: tuple[tuple[Step, ...], int] | None = None
        #: The step that the keys are at.
        self._at = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(say("Click a step's mark, or press space at it, to tick all up to it"))
        fixed(self, wide=self.WIDE)
        self.setAccessibleName(say("Run list"))
        self.follow(desk.session, desk.results.findings_changed)

    def refresh(self) -> None:
        self._look_up(self._desk.session.first)
        # Most edits and findings leave the steps as they are.
        shown = self.steps, self.done
        if shown != self._shown:
            self._shown = shown
            self.setMinimumHeight(px(self.TOP + self.ROW * len(self.steps) + 8))
            self._at = min(self._at, max(0, len(self.steps) - 1))
            self._tell()
            self.update()

    def _tell(self) -> None:
        """The step that the keys are at, and the list, for those who do not see it."""
        if not self.steps:
            self.setAccessibleDescription("")
            return
        step, count = self.steps[self._at], len(self.steps)
        state = say("done") if self._at < self.done else say("to be done")
        listed = "; ".join(f"{s.text}, {duration(s.seconds)}" for s in self.steps)
        self.setAccessibleDescription(
            say(
                "Step {at} of {count}: {step}, {state}. {done} are done. {listed}",
                at=self._at + 1,
                count=count,
                step=step.text,
                state=state,
                done=self.done,
                listed=listed,
            )
        )

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is not None and self.steps:
            self._at = max(0, min(len(self.steps) - 1, self._at + step))
            self._tell()
            self.update()
        elif event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return) and self.steps:
            self._tick(self._at)
        else:
            super().keyPressEvent(event)

    def _tick(self, index: int) -> None:
        """Tick all steps up to one, or take the last tick away."""
        if not self.running and 0 <= index < len(self.steps):
            self._at = index
            self.ticked_off(index if self.done == index + 1 else index + 1)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.FontChange:
            self._shown = None
            self.refresh()

    @property
    def steps(self) -> tuple[Step, ...]:
        """What is to be done, as it was last reckoned with all else that follows from the job."""
        findings = self._desk.results.findings
        return findings.steps if findings is not None else ()

    def _look_up(self, job: Faced | None) -> None:
        """Ticks of a run list that was worked on before, maybe on another day."""
        key = run_list_key(job.job, self.steps) if job else ""
        if key == self._key:
            return
        self._key = key
        self.done = 0
        if key:
            self._desk.workers.start(
                "ticks", lambda _: (key, ticked(Queue(queue_folder()).folder, key)), self._known
            )

    def _known(self, found: tuple[str, int]) -> None:
        key, count = found
        if key == self._key and not self.running:
            self.done = min(count, len(self.steps))
            self.update()

    def ticked_off(self, count: int) -> None:
        """So many steps are done; that is kept.

        Parameters
        ----------
        count : of the steps
        """
        self.done, key = count, self._key
        self._tell()
        self.update()
        if key:
            self._desk.workers.in_turn(
                "tick", lambda _: tick(Queue(queue_folder()).folder, key, count), lambda _: None
            )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose a step; at its mark, tick what was done at another printer up to it."""
        index = int((event.position().y() - px(self.TOP)) // px(self.ROW))
        if not 0 <= index < len(self.steps):
            return
        if event.position().x() < px(MARK):
            self._tick(index)
        else:
            self._at = index
            self._tell()
            self.update()
        self.pointed_at.emit(self.steps[index])

    def paintEvent(self, _: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(t.paper))
        drawn_at_scale(painter)
        painter.setFont(plain_font(13, bold=True))
        painter.setPen(QColor(t.text))
        painter.drawText(QPointF(16, 28), say("Run list"))
        painter.setFont(plain_font(12))
        painter.setPen(QColor(t.faint))
        together = duration(sum(step.seconds for step in self.steps))
        area = QRectF(120, 14, self.WIDE - 134, 20)
        painter.drawText(
            area, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, together
        )
        for index, step in enumerate(self.steps):
            self._paint_step(painter, index, step)
        painter.end()

    def _paint_step(self, painter: QPainter, index: int, step: Step) -> None:
        t, top = theme(), float(self.TOP + index * self.ROW)
        centre = QPointF(28, top + 14)
        if index < len(self.steps) - 1:
            painter.setPen(QPen(QColor(t.line), 1.4))
            painter.drawLine(centre + QPointF(0, 11), centre + QPointF(0, 43))
        done, now = index < self.done, self.running and index == self.done
        painter.setPen(QPen(QColor(t.accent if done or now else t.faint), 1.6))
        painter.setBrush(QColor(t.accent) if done else QColor(t.field))
        painter.drawEllipse(centre, 9, 9)
        if done:
            painter.setPen(QPen(QColor(t.on_accent), 1.8))
            tick = (QPointF(-4, 0), QPointF(-1, 3.4), QPointF(4.4, -3.4))
            painter.drawPolyline([centre + point for point in tick])
        else:
            painter.setFont(plain_font(11))
            box = QRectF(centre.x() - 9, centre.y() - 9, 18, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(index + 1))
        painter.setFont(plain_font(13, bold=now))
        painter.setPen(QColor(t.text))
        painter.drawText(QPointF(48, top + 13), step.text)
        painter.setFont(plain_font(12))
        painter.setPen(QColor(t.faint))
        time = QRectF(self.WIDE - 90, top, 76, 18)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(time, right, duration(step.seconds))
        words = painter.fontMetrics().elidedText(
            step.detail, Qt.TextElideMode.ElideRight, self.WIDE - 62
        )
        painter.drawText(QPointF(48, top + 31), words)
        if self.hasFocus() and index == self._at:
            painter.setPen(QPen(QColor(t.accent), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(4, top - 6, self.WIDE - 10, self.ROW - 6))


class PressCanvas(Following, BedWorld):
    """The test press's bed from above; a click on a piece shows it finished."""

    #: A piece is clicked: its place on the bed in mm.
    asked = Signal(float, float)

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.picture: QImage | None = None
        self.caption = ""
        #: Pictures of a finished piece with their words, shown in place of the bed.
        self.piece: list[tuple[QImage, str]] = []
        self.setAccessibleName(say("The test press's bed; click a piece to see it finished"))
        self._shown: object = None
        self.follow(desk.session)

    def refresh(self) -> None:
        job = self._desk.session.first
        # All that is painted of a job.
        shown = job and (printer_frame(job), job.receiver.drive, job.receiver.name)
        if shown != self._shown:
            self._shown = shown
            self.refit()

    def frame(self) -> QRectF:
        return QRectF(self.rect()).adjusted(18, 40, -18, -18)

    def show_picture(self, picture: QImage | None, caption: str) -> None:
        self.picture, self.caption, self.piece = picture, caption, []
        self.update()

    def show_piece(self, pictures: list[tuple[QImage, str]]) -> None:
        """Show a finished piece until the next click."""
        self.piece = pictures
        self.update()

    def pressed(self, place: QPointF) -> None:
        if self.piece:
            self.show_piece([])
        elif self.picture is not None:
            self.asked.emit(place.x(), place.y())

    def paint_world(self, painter: QPainter) -> None:
        job = self._desk.session.first
        if job is None:
            return
        if self.piece:
            self._paint_piece(painter)
            return
        frame = printer_frame(job)
        bed = self.box(0, 0, frame.width, frame.height)
        if self.picture is not None:
            paint_picture(painter, bed, self.picture)
        else:
            painter.fillRect(bed, QColor("#3b3b3b"))
            painter.setPen(QColor("#e8e8e8"))
            painter.setFont(font(14))
            to_press = job.receiver.drive is Drive.PRESS
            words = (
                say("The bed is empty.\nPrint on the test press to see what will come out.")
                if to_press
                else say(
                    "{receiver} prints this job.\nWhat came of it is said in the queue.",
                    receiver=spoken(job.receiver.name),
                )
            )
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(bed.adjusted(8, 8, -8, -8), int(flags), words)
        painter.setPen(QPen(QColor("#262626"), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(bed)
        painter.setFont(font(12.5))
        painter.setPen(QColor("#f4f4f4"))
        painter.drawText(QPointF(18, 26), self.caption or say("The test press, from above"))

    def _paint_piece(self, painter: QPainter) -> None:
        """Its pictures side by side, in as many rows as show them largest."""
        area, count = QRectF(self.rect()).adjusted(18, 44, -18, -14), len(self.piece)
        first = self.piece[0][0]

        def fitted(columns: int) -> float:
            lines = -(-count // columns)
            across = (area.width() / columns - 12) / max(1, first.width())
            return min(across, (area.height() / lines - 30) / max(1, first.height()))

        columns = max(range(1, count + 1), key=fitted)
        scale, lines = fitted(columns), -(-count // columns)
        cell = QSizeF(area.width() / columns, area.height() / lines)
        painter.setFont(font(12.5))
        painter.setPen(QColor("#f4f4f4"))
        painter.drawText(QPointF(18, 26), say("The finished piece; click to go back to the bed"))
        for at, (picture, words) in enumerate(self.piece):
            left = area.left() + (at % columns) * cell.width()
            box = QRectF(0, 0, picture.width() * scale, picture.height() * scale)
            top = area.top() + (at // columns) * cell.height()
            box.moveCenter(QPointF(left + cell.width() / 2, top + (cell.height() - 24) / 2))
            paint_picture(painter, box, picture)
            under = QRectF(left, box.bottom() + 4, cell.width(), 18)
            painter.drawText(under, Qt.AlignmentFlag.AlignHCenter, words)


class RunPicture(QWidget):
    """The run list beside the press's bed."""

    def __init__(self, desk: Desk, press: PressDesk) -> None:
        super().__init__()
        self.list, self.canvas = RunList(desk), PressCanvas(desk)
        self._desk, self._press = desk, press
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        scroll = QScrollArea()
        scroll.setWidget(self.list)
        scroll.setWidgetResizable(True)
        fixed(scroll, wide=RunList.WIDE + 8)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        row.addWidget(scroll)
        row.addWidget(self.canvas, 1)
        self._printed: Faced | None = None
        self._entry: int | None = None
        press.sent.connect(self._sent)
        press.began.connect(self._began)
        press.step_done.connect(self._show_step)
        press.board_printed.connect(self._show_board)
        press.piece_seen.connect(self.canvas.show_piece)
        self.canvas.asked.connect(press.look_at_piece)
        desk.session.changed.connect(self._job_changed)
        desk.workers.ended.connect(self._ended)

    def start(self) -> None:
        """Hand the open job to its receiver."""
        if all_taken(self):
            self._press.send_open_job()

    def _sent(self, number: int, job: Faced) -> None:
        """The open job has a place in the queue; its steps are followed here."""
        if job is self._desk.session.first:
            self._entry, self._printed = number, job

    def _began(self, number: int) -> None:
        if number == self._entry:
            self.list.done, self.list.running = 0, True
            self.list.update()
            self.canvas.show_picture(None, "")

    def _show_step(self, number: int, index: int, picture: QImage) -> None:
        if number != self._entry or self._printed is not self._desk.session.first:
            return
        self.list.done = index + 1
        self.list.update()
        if not picture.isNull():
            done = inside(self.list.steps[index].text)
            words = say("The test press's bed from above, after: {done}", done=done)
            self.canvas.show_picture(
                picture, say("{words}. Click a piece to see it finished.", words=words)
            )

    def _show_board(self, picture: QImage) -> None:
        """A test print takes the place of what was on the bed."""
        self._printed = None
        self.list.done = 0
        self.list.update()
        self.canvas.show_picture(
            picture, say("The test press's bed from above, with the test print")
        )

    def _job_changed(self) -> None:
        printed, now = self._printed, self._desk.session.first
        if printed is None or printed is now:
            return
        noted = now and now.job.model_copy(update={"made_guide": printed.job.made_guide})
        if noted == printed.job:
            # It was but noted that the guide was made.
            self._printed = now
        else:
            self._printed = None
            self.list.done, self.list.running = 0, False
            self.canvas.show_picture(None, "")

    def _ended(self, _: object) -> None:
        if self.list.running and not self._press.busy():
            self.list.running = False
            self.list.update()

    def showEvent(self, event: object) -> None:
        self._press.watch(True)
        super().showEvent(event)  # type: ignore[arg-type]

    def hideEvent(self, event: object) -> None:
        self._press.watch(False)
        super().hideEvent(event)  # type: ignore[arg-type]
