"""Where a printed guide shows pockets."""

from __future__ import annotations

import cv2
import numpy as np

from farbe.files.ticket import TicketPocket
from farbe.press.bed import Lying, PressBed


def enclosed(bed: PressBed) -> list[Lying]:
    """The areas that the guide's lines enclose, each with the kind of piece that fits it best.

    Parameters
    ----------
    bed : as it is on the press
    """
    line = np.max([plate for film in bed.on_board for plate in film.coverage.values()], axis=0)
    open_area = (line < 0.2).astype(np.uint8)
    count, _, stats, _ = cv2.connectedComponentsWithStats(open_area, connectivity=4)
    kinds = range(len(bed.ticket.pieces))
    sizes = [np.ptp(bed.outline(kind), axis=0) * bed.scale for kind in kinds]
    found = []
    for left, top, width, height, _ in stats[1:count]:
        over = [np.array((width, height)) - size for size in sizes]
        # The line stands off from the piece by a millimetre or two at most.
        fits = [k for k in kinds if over[k].min() >= -1.5 and over[k].max() <= 4 * bed.scale]
        if fits:
            kind = min(fits, key=lambda k: float(np.abs(over[k]).sum()))
            x = (left + width / 2) / bed.scale
            y = bed.ticket.bed_height - (top + height / 2) / bed.scale
            found.append(Lying(float(x), float(y), kind))
    return found


def marked(bed: PressBed) -> list[Lying]:
    """Pieces in the middle of the marks near each pocket, for guides that do not close.

    Ticks and kerbs look the same after half a turn, so their ink convolved with itself peaks at
    twice their middle; figures beside them do not matter.

    Parameters
    ----------
    bed : as it is on the press
    """
    line = np.max([plate for film in bed.on_board for plate in film.coverage.values()], axis=0)
    found = []
    for pocket in bed.pockets:
        wide, high = np.ptp(bed.outline(pocket.piece), axis=0).tolist()
        room = _room(pocket, bed.pockets, wide, high)
        half_w, half_h = wide / 2 + room, high / 2 + room
        left = max(0, round((pocket.x - half_w) * bed.scale))
        top = max(0, round((bed.ticket.bed_height - pocket.y - half_h) * bed.scale))
        window = line[
            top : top + round(2 * half_h * bed.scale), left : left + round(2 * half_w * bed.scale)
        ]
        if window.sum() < 4:
            continue
        height, width = window.shape
        wave = np.fft.rfft2(window, (2 * height, 2 * width))
        twice = np.fft.irfft2(wave * wave, (2 * height, 2 * width))
        row, column = np.unravel_index(int(np.argmax(twice)), twice.shape)
        x = (left + (column + 1) / 2) / bed.scale
        y = bed.ticket.bed_height - (top + (row + 1) / 2) / bed.scale
        found.append(Lying(float(x), float(y), pocket.piece))
    return found


def _room(
    pocket: TicketPocket, pockets: tuple[TicketPocket, ...], wide: float, high: float
) -> float:
    """Half the least gap to another pocket in mm, 5 at most: marks within belong to this one."""
    gaps = [
        max(abs(p.x - pocket.x) - wide, abs(p.y - pocket.y) - high)
        for p in pockets if p is not pocket and p.piece == pocket.piece
    ]  # fmt: skip
    return min([5.0, *(gap / 2 for gap in gaps if gap > 0)])
