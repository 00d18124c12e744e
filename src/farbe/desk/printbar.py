"""The line above a picture that says which print it shows, and steps to the next."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSizePolicy, QWidget

from farbe.desk.results import Results
from farbe.desk.session import Session
from farbe.desk.theme import fixed
from farbe.said import say


class PrintBar(QWidget):
    """Hidden where a job has but one print."""

    def __init__(self, session: Session, results: Results) -> None:
        super().__init__()
        self._results = results
        self._words = QLabel()
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self._count = QLabel()
        self._count.setProperty("role", "faint")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 3, 10, 3)
        row.addWidget(self._words, 1)
        row.addWidget(self._count)
        for sign, by, words in (
            ("‹", -1, say("The print before (Ctrl+Page up)")),
            ("›", 1, say("The next print (Ctrl+Page down)")),
        ):
            button = QPushButton(sign)
            button.setToolTip(words)
            button.setAccessibleName(words)
            fixed(button, wide=34)
            button.clicked.connect(lambda _=False, by=by: results.step_print(by))
            row.addWidget(button)
        session.changed.connect(self.refresh)
        results.print_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Say which print is shown, where the picture that it lies over is seen."""
        around = self.parentWidget()
        if around is not None and not around.isVisible():
            return
        at, count, words = self._results.shown_print
        self.setVisible(count > 1)
        self._count.setText(say("print {at} of {count}", at=at + 1, count=count))
        self.setAccessibleName(
            say("Shown: {words}, print {at} of {count}", words=words, at=at + 1, count=count)
        )
        self._words.setToolTip(words)
        self._elide(words)

    def _elide(self, words: str) -> None:
        room = max(40, self._words.width())
        mode = Qt.TextElideMode.ElideMiddle
        self._words.setText(self._words.fontMetrics().elidedText(words, mode, room))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._elide(self._results.shown_print[2])
