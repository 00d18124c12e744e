"""Picking on the picture: what waits for a click or a drag there."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from farbe.model.piece import Ring


class Picking(QObject):
    """At most one thing waits; a canvas asks what it is and hands over what was picked.

    It waits for as long as what it was begun from is there: a row of a layer goes when another
    layer is chosen, and what is picked then would be another layer's.
    """

    #: Picking began or ended.
    changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._colour: Callable[[str], object] | None = None
        self._region: Callable[[Ring], object] | None = None
        #: What it was begun from, and how often it was.
        self._of: QObject | None = None
        self._begun = 0

    @property
    def wants_colour(self) -> bool:
        return self._colour is not None

    @property
    def wants_region(self) -> bool:
        return self._region is not None

    def is_of(self, of: QObject) -> bool:
        """Whether something waits that was begun from there."""
        return self._of is of

    def begin_colour(self, of: QObject, then: Callable[[str], object]) -> None:
        """Wait for a colour, ``#rrggbb``."""
        self._colour, self._region = then, None
        self._begin(of)

    def begin_region(self, of: QObject, then: Callable[[Ring], object]) -> None:
        """Wait for a closed line in mm around the piece's middle, y up."""
        self._colour, self._region = None, then
        self._begin(of)

    def _begin(self, of: QObject) -> None:
        self._of, self._begun = of, self._begun + 1
        number = self._begun
        of.destroyed.connect(lambda: self._gone(number))
        self.changed.emit()

    def _gone(self, number: int) -> None:
        if number == self._begun and self._of is not None:
            self.end()

    def end(self) -> None:
        """Wait no longer."""
        self._colour = self._region = self._of = None
        self.changed.emit()

    def take_colour(self, colour: str) -> None:
        then = self._colour
        self.end()
        if then is not None:
            then(colour)

    def take_region(self, ring: Ring) -> None:
        then = self._region
        self.end()
        if then is not None:
            then(ring)
