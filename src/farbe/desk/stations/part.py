"""What the things of an inspector share."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtWidgets import QWidget

from farbe.desk.fields import ChoiceField, NumberField
from farbe.desk.following import CatchesUp
from farbe.desk.form import Form
from farbe.desk.inspector import Inspector
from farbe.desk.stations.base import Desk
from farbe.edits.values import Get, Set, lens


class Part(CatchesUp):
    """One thing of an inspector: its rows, and its state; :meth:`refresh` follows the job."""

    #: What the thing is called in the list.
    NAME = ""

    def __init__(self, inspector: Inspector, desk: Desk) -> None:
        self.form, self.desk, self.session = Form(), desk, desk.session
        self.thing = inspector.add(self.NAME, self.form)
        self._inspector, self._followed = inspector, desk.session
        self.build()
        inspector.shown.connect(self._shown)
        inspector.left.connect(lambda: self.session.no_longer_seen_by(self))
        if inspector.isVisible():
            self.session.seen_by(self)
        self.catch_up()

    def _shown(self) -> None:
        self.session.seen_by(self)
        if self.is_behind:
            self.session.tell_later()

    def _follow(self) -> None:
        """Show what else is told of the job, or when the station is shown again."""
        self._stale = True
        if self._inspector.isVisible():
            self.catch_up()

    def build(self) -> None:
        """Add the rows."""

    def refresh(self) -> None:
        """Show what follows from the job."""

    def number(self, name: str, where: str | tuple[Get, Set], **more: Any) -> NumberField:
        """A figure of the job, by its path or by getter and setter."""
        get, put = lens(where) if isinstance(where, str) else where
        return NumberField(self.session, name, get, put, **more)

    def numbers(
        self, words: str, *named: tuple[str, str | tuple[Get, Set]], **more: Any
    ) -> QWidget:
        """A row of one or two figures."""
        return self.form.row(words, *(self.number(name, where, **more) for name, where in named))

    def choice(
        self,
        words: str,
        name: str,
        choices: Sequence[tuple[Any, str]],
        where: str | tuple[Get, Set],
    ) -> QWidget:
        """A row with one of a closed list."""
        get, put = lens(where) if isinstance(where, str) else where
        return self.form.row(words, ChoiceField(self.session, name, choices, get, put))
