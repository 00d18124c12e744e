"""What a station is made of."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtWidgets import QWidget

from farbe.desk.exports import Exports
from farbe.desk.inspector import Inspector
from farbe.desk.intake import Intake
from farbe.desk.picking import Picking
from farbe.desk.results import Results
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.model.meaning import Meaning


@dataclass(frozen=True)
class Desk:
    """What the stations share."""

    session: Session
    workers: Workers
    results: Results
    picking: Picking
    intake: Intake
    exports: Exports
    currency_now: Callable[[], str] = lambda: "€"
    #: Remembers what a plate of this name is for.
    remember_plate: Callable[[str, Meaning], object] = lambda *_: None
    #: What a plate of this name was said to be for, if it was.
    recall_plate: Callable[[str], Meaning | None] = lambda _: None

    @property
    def currency(self) -> str:
        """The sign or code of the user's money."""
        return self.currency_now()


@dataclass(frozen=True)
class StationView:
    """A picture, the inspector beside it, and what lies under it in the section's place."""

    picture: QWidget
    inspector: Inspector
    under: QWidget | None = None
