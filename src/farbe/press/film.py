"""Film with two sides: turned over, loaded with its last end first, side B laid by lines."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from farbe.files.ticket import Ticket, TicketPocket
from farbe.press.plates import Coverage

#: How far from where it should be a line is looked for, in mm.
REACH = 8.0
#: Darkness from which a row of the film counts as line, and its least share of the line's length.
DARK, LEAST = 0.5, 0.6


def turned(plate: npt.NDArray[np.float32], slip: tuple[float, float], scale: float) -> Coverage:
    """What was printed on side A as it lies after the film is turned over, seen through it.

    The way along is counted from the other end; ``slip`` is how far it lies off, in mm.

    Parameters
    ----------
    plate : coverage 0 to 1, float32 (h, w)
    slip : mm to the right and along, by which the film lies off
    scale : press pixels a mm

    Returns
    -------
    float32 (h, w)
    """
    over = plate[::-1]
    down, right = -round(slip[1] * scale), round(slip[0] * scale)
    return np.ascontiguousarray(np.roll(over, (down, right), axis=(0, 1)))


def line_offset(
    ticket: Ticket, number: int, side_a: Coverage, scale: float
) -> tuple[float, float] | None:
    """How far the line of a side A lies from where it should after turning, in mm.

    Parameters
    ----------
    ticket : of the hand-off
    number : of the pair
    side_a : darkness of side A's print as it lies now, 0 to 1 (h, w)
    scale : pixels to the mm

    Returns
    -------
    x and y, or None where no line is found
    """
    line = next((one for one in ticket.lines if one.number == number), None)
    if line is None:
        return None
    height, width = side_a.shape
    x, y = line.x * scale, height - (ticket.bed_height - line.y) * scale
    reach, half = round(REACH * scale), line.length / 2 * scale
    top, bottom = max(0, round(y) - reach), min(height, round(y) + reach)
    left, right = max(0, round(x - half) - reach), min(width, round(x + half) + reach)
    window = side_a[top:bottom, left:right]
    dark = window > DARK
    rows = np.flatnonzero(dark.sum(axis=1) >= LEAST * 2 * half)
    if not len(rows):
        return None
    columns = np.flatnonzero(dark[rows].any(axis=0))
    weights = window[rows][:, columns]
    at_y = top + float((weights.sum(axis=1) * (rows + 0.5)).sum() / weights.sum())
    at_x = left + (columns[0] + columns[-1] + 1) / 2
    return (at_x - x) / scale, (y - at_y) / scale


def laid_by_lines(
    plate: Coverage,
    pockets: tuple[TicketPocket, ...],
    sizes: list[tuple[float, float]],
    offsets: dict[int, tuple[float, float]],
    film: tuple[float, float],
    scale: float,
) -> Coverage:
    """Side B's plate with each piece moved by what its own line says.

    Parameters
    ----------
    plate : side B, coverage 0 to 1 (h, w)
    pockets : where the ticket has them, mm
    sizes : width and height in mm of each kind of piece
    offsets : for each pocket's number, mm to the right and away
    film : length of the film in mm, and room around a piece that moves with it
    scale : pixels to the mm
    """
    length, room = film
    laid = np.zeros_like(plate)
    for pocket in pockets:
        wide, high = sizes[pocket.piece]
        left = max(0, round((pocket.x - wide / 2 - room) * scale))
        right = min(plate.shape[1], round((pocket.x + wide / 2 + room) * scale))
        top = max(0, round((length - pocket.y - high / 2 - room) * scale))
        bottom = min(plate.shape[0], round((length - pocket.y + high / 2 + room) * scale))
        x, y = offsets[pocket.number]
        across, down = round(x * scale), -round(y * scale)
        part = plate[top:bottom, left:right]
        t, b = max(0, top + down), min(plate.shape[0], bottom + down)
        lo, hi = max(0, left + across), min(plate.shape[1], right + across)
        target = laid[t:b, lo:hi]
        source = part[t - top - down : b - top - down, lo - left - across : hi - left - across]
        np.maximum(target, source, out=target)
    return laid
