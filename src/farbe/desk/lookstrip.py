"""The strip under the checks: how much of the job was looked at, and how closely."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from farbe.desk.results import Results
from farbe.desk.theme import fixed, font, px, theme
from farbe.follows.findings import Findings
from farbe.layout.figures import number
from farbe.said import say, say_count


class LookStrip(QWidget):
    """One line; a bar along its top while a closer look is going on."""

    def __init__(self, results: Results) -> None:
        super().__init__()
        fixed(self, high=20)
        self.setAccessibleName(say("What was looked at"))
        self._results = results
        self._done = 0.0
        results.findings_changed.connect(self._refresh)
        results.looked.connect(self._moved)
        self._refresh()

    @property
    def shown_text(self) -> str:
        """What it says."""
        return words(self._results.findings, self._done)

    def _moved(self, done: float) -> None:
        self._done = done
        self._refresh()

    def _refresh(self) -> None:
        findings = self._results.findings
        if findings is None or findings.exact:
            self._done = 0.0
        self.setAccessibleDescription(self.shown_text)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme().footer))
        if 0.0 < self._done < 1.0:
            bar = QRectF(0, 0, self.width() * self._done, 2)
            painter.fillRect(bar, QColor("#9cc0f2"))
        painter.setFont(font(11))
        painter.setPen(QColor("#b8b8b8"))
        area = QRectF(self.rect()).adjusted(px(16), 0, -px(12), -px(3))
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, self.shown_text)
        painter.end()


def words(findings: Findings | None, done: float) -> str:
    """What was looked at, in words.

    Parameters
    ----------
    findings : of the open job; None without one
    done : share of the closer look that is done, 0 to 1
    """
    if findings is None or findings.grid is None:
        return ""
    dpi = say(
        "{dpi_x} × {dpi_y} dpi",
        dpi_x=number(findings.grid.dpi_x),
        dpi_y=number(findings.grid.dpi_y),
    )
    all_ = say_count(findings.prints, "{count} print", "{count} prints")
    if findings.exact and not 0.0 < done < 1.0:
        return say(
            "Looked at {prints} of {all} at {dpi}.", prints=findings.prints, all=all_, dpi=dpi
        )
    near = int(done * findings.prints)
    return say(
        "Looked at {all} coarsely; a closer look is going on, {near} of {prints} done.",
        all=all_,
        near=near,
        prints=findings.prints,
    )
