"""What is under a place of the bed's picture, so that its values can be shown."""

from __future__ import annotations

import math
from enum import Enum, auto

from PySide6.QtCore import QPointF

from farbe.layout.bedframe import board_on_bed
from farbe.layout.faced import Faced
from farbe.layout.pockets import quarter_turns

#: Height in mm of the strip at a board's far or near edge in which its code stands.
CODE_STRIP = 12.0


class Spot(Enum):
    """Kinds of things in the picture."""

    POCKET = auto()
    ARTWORK = auto()
    TEXT = auto()
    KEEP_OUT = auto()
    JIG = auto()
    GUIDE = auto()
    BOARD = auto()


def board_spot(job: Faced, place: QPointF) -> Spot:
    """What is meant between the pockets: the guide by its code, the jig, or the bed around it.

    Parameters
    ----------
    job : as one of its faces has it
    place : in mm on the bed
    """
    left, bottom, right, top = board_on_bed(job.jig.board, job.jig.datum, job.printer)
    if not (left <= place.x() <= right and bottom <= place.y() <= top):
        return Spot.BOARD
    in_code = place.y() < bottom + CODE_STRIP and place.x() > right - (right - left) / 4
    return Spot.GUIDE if in_code else Spot.JIG


def text_at(job: Faced, x: float, y: float, turned: float = 0.0) -> int | None:
    """The uppermost text box at a place in a pocket, by its place in the list.

    Parameters
    ----------
    job : as one of its faces has it
    x, y : mm from the pocket's middle, along the bed's axes
    turned : degrees by which the pocket is turned besides how all pieces lie
    """
    turn = math.radians(90 * quarter_turns(job) + turned)
    on_x, on_y = turned_back(x, y, turn)
    for at in reversed(range(len(job.texts))):
        box = job.texts[at]
        along, up = turned_back(on_x - box.x, on_y - box.y, math.radians(box.rotation))
        if abs(along) <= box.width / 2 and abs(up) <= box.height / 2:
            return at
    return None


def turned_back(x: float, y: float, angle: float) -> tuple[float, float]:
    """A place seen from axes that are turned anticlockwise by radians."""
    return x * math.cos(angle) + y * math.sin(angle), y * math.cos(angle) - x * math.sin(angle)
