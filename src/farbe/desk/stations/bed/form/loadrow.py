"""The row that chooses which load of the board is shown."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from farbe.desk.stations.part import Part
from farbe.layout.loads import with_load
from farbe.said import say


def load_row(part: Part, name: str) -> QWidget:
    """A figure for the load that is shown, from 1.

    Parameters
    ----------
    part : that gets the row
    name : of the field, as screen readers say it
    """
    where = (lambda j: j.job.load + 1, lambda j, v: with_load(j, round(v) - 1))
    return part.numbers(say("Load"), (name, where), unit="", digits=0)
