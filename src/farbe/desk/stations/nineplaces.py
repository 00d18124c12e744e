"""Nine places to align something at."""

from __future__ import annotations

from collections.abc import Callable
from itertools import product

from PySide6.QtWidgets import QGridLayout, QPushButton, QWidget

from farbe.desk.fields import fill
from farbe.desk.following import Following
from farbe.desk.session import Session
from farbe.desk.theme import fixed
from farbe.layout.faced import Faced
from farbe.model.placing import Across, Along
from farbe.said import say


class NinePlaces(Following, QWidget):
    """Three rows of three buttons, as the places lie on the piece; the one in force is filled."""

    def __init__(
        self,
        session: Session,
        what: str,
        get: Callable[[Faced], tuple[Across, Along] | None],
        put: Callable[[Faced, Across, Along], Faced],
    ) -> None:
        super().__init__()
        self._session, self._what, self._get, self._put = session, what, get, put
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(3)
        grid.setColumnStretch(3, 1)
        self._buttons: dict[tuple[Across, Along], QPushButton] = {}
        for (row, along), (column, across) in product(
            enumerate(reversed(Along)), enumerate(Across)
        ):
            button = QPushButton()
            fixed(button, wide=34, high=20)
            button.setProperty("role", "place")
            button.setAccessibleName(
                say(
                    "Align {what} {along} {across}",
                    what=what,
                    along=along.words,
                    across=across.words,
                )
            )
            button.setToolTip(button.accessibleName())
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, a=across, b=along: self._choose(a, b))
            grid.addWidget(button, row, column)
            self._buttons[across, along] = button
        self.follow(session)

    def _choose(self, across: Across, along: Along) -> None:
        self._session.edit(
            say("Align the {what}", what=self._what), lambda job: self._put(job, across, along)
        )
        self.refresh()

    def refresh(self) -> None:
        job = self._session.job
        if job is None:
            return
        there = self._get(job)
        for place, button in self._buttons.items():
            fill(button, there == place)
