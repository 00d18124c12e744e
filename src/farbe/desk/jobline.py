"""The job line: the whole job in one sentence, each phrase a link."""

from __future__ import annotations

from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractButton, QWidget

from farbe.checks.weight import Weight
from farbe.desk.marks import paint_weight
from farbe.desk.theme import fixed, font, px, theme
from farbe.estimate.cost import order_cost
from farbe.follows.findings import Findings
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal
from farbe.plan.sentence import Phrase, duration, job_line
from farbe.plan.stations import Station
from farbe.said import say

SIZE = 14
#: Rows for which the line has room.
ROWS = 2


@lru_cache(maxsize=256)
def _wide(words: str, pixels: int) -> float:
    """How wide words are in the line's type of this size; an edit changes few of them."""
    del pixels  # the type is of it
    return QFontMetricsF(font(SIZE, bold=True)).horizontalAdvance(words)


class PhraseLink(QAbstractButton):
    """One phrase, underlined with dots, with the mark of what is wrong in it."""

    def __init__(self, parent: QWidget, *, quiet: bool = False) -> None:
        super().__init__(parent)
        self._quiet = quiet
        self.weight: Weight | None = None
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def sizeHint(self) -> QSize:
        width = round(_wide(self.text(), px(SIZE)))
        return QSize(width + 4 + (px(20) if self.weight else 0), px(24))

    def paintEvent(self, _: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setFont(font(SIZE, bold=True))
        active = self.underMouse() or self.hasFocus()
        colour = QColor(t.accent if active or self._quiet else t.text)
        painter.setPen(colour)
        area = QRectF(self.rect())
        room = area.width() - (px(20) if self.weight else 0)
        words, width = self.text(), _wide(self.text(), px(SIZE))
        if width > room:
            metrics = QFontMetricsF(painter.font())
            words = metrics.elidedText(words, Qt.TextElideMode.ElideRight, room)
            width = metrics.horizontalAdvance(words)
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, words)
        if not self._quiet:
            style = Qt.PenStyle.SolidLine if active else Qt.PenStyle.DotLine
            painter.setPen(QPen(colour if active else QColor(t.faint), 1, style))
            line = area.height() - 2.5
            painter.drawLine(QPointF(0, line), QPointF(width, line))
        if self.weight is not None:
            paint_weight(painter, QRectF(width + px(6), px(6.5), px(11), px(11)), self.weight)
        painter.end()


class JobLine(QWidget):
    """Lays the phrases in one row, or in two where the window is narrow."""

    chosen = Signal(object)
    GAP = 20

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(say("Job line"))
        self._name = PhraseLink(self, quiet=True)
        name = Phrase("", Station.PIECE, (say("Job name"),))
        self._name.clicked.connect(lambda: self.chosen.emit(name))
        self._links: list[PhraseLink] = []
        self._phrases: list[Phrase] = []
        self._told: tuple[object, ...] = ()
        fixed(self, high=52)

    def show_job(self, job: Faced | None, findings: Findings | None, currency: str) -> None:
        phrases = list(job_line(job)) if job else []
        if job and findings and findings.estimate.pieces:
            each = order_cost(findings.estimate, findings.steps, job.prices).each
            time = duration(sum(step.seconds for step in findings.steps))
            words = say(
                "{time}, {each} {currency} each",
                time=time,
                each=decimal(each, 2),
                currency=currency,
            )
            short = say("{each} {currency} each", each=decimal(each, 2), currency=currency)
            phrases.append(Phrase(words, Station.RUN, (say("Price of a piece"),), short))
        worst: dict[Station, Weight] = {}
        for check in findings.checks if findings else ():
            if check.weight is not Weight.NOTE and not check.accepted:
                worst.setdefault(check.station, check.weight)
        told = (job.name if job else "", *phrases, *worst.items(), px(SIZE))
        if told == self._told:
            return
        self._told = told
        self._name.setText(job.name if job else "")
        self._name.setAccessibleName(say("Job name"))
        self._name.setToolTip(self._name.text())
        while len(self._links) < len(phrases):
            link = PhraseLink(self)
            index = len(self._links)
            link.clicked.connect(lambda _=False, i=index: self.chosen.emit(self._phrases[i]))
            self._links.append(link)
        self._phrases = phrases
        whole = "; ".join(filter(None, (job.name if job else "", *(p.text for p in phrases))))
        self.setAccessibleName(say("Job line: {whole}", whole=whole) if whole else say("Job line"))
        self.setToolTip(whole)
        marked: set[Station] = set()
        for link, phrase in zip(self._links, phrases, strict=False):
            link.setText(phrase.text)
            link.setAccessibleName(phrase.text)
            link.setToolTip(
                say(
                    "{phrase}\nSet at the station {station}",
                    phrase=phrase.text,
                    station=phrase.station.words,
                )
            )
            # One mark a station: on the first phrase that is set there.
            link.weight = worst.get(phrase.station) if phrase.station not in marked else None
            marked.add(phrase.station)
        self._lay_out()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_out()

    def _rows_of(self, links: list[PhraseLink]) -> list[list[PhraseLink]]:
        """Links as they follow each other, from row to row."""
        rows: list[list[PhraseLink]] = [[]]
        used = px(16)
        for link in links:
            width = link.sizeHint().width()
            if used + width > self.width() - px(16) and rows[-1]:
                rows.append([])
                used = px(16)
            rows[-1].append(link)
            used += width + px(self.GAP)
        return rows

    def _lay_out(self) -> None:
        """Phrases in two rows; where they do not fit, the last ones are said shorter first."""
        links = [self._name, *self._links[: len(self._phrases)]]
        for link, phrase in zip(links[1:], self._phrases, strict=True):
            link.setText(phrase.text)
        rows = self._rows_of(links)
        for link, phrase in reversed(list(zip(links[1:], self._phrases, strict=True))):
            if len(rows) <= ROWS:
                break
            link.setText(phrase.short or phrase.text)
            rows = self._rows_of(links)
        row_high = px(24)
        top = (self.height() - row_high * min(ROWS, len(rows))) / 2
        self._dots: list[QPointF] = []
        for row in rows[:ROWS]:
            x = px(16)
            for link in row:
                # What is longer than the window is said with its end left out.
                wide = min(link.sizeHint().width(), self.width() - x - px(4))
                link.setGeometry(x, round(top), wide, row_high)
                link.show()
                x += wide + px(self.GAP)
                if link is not row[-1] and link is not self._name:
                    self._dots.append(QPointF(x - px(self.GAP) / 2 - 1, top + row_high * 0.54))
            top += row_high
        for link in (link for row in rows[ROWS:] for link in row):
            link.hide()
        for link in self._links[len(self._phrases) :]:
            link.hide()
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(t.bar))
        painter.setPen(QColor(t.line))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.faint))
        for dot in self._dots:
            painter.drawEllipse(dot, 1.3, 1.3)
        painter.end()
