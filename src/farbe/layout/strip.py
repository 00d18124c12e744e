"""A control strip beside a job's own pieces: its patches, and where there is room for it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import cv2
import numpy as np
import numpy.typing as npt

from farbe.layout.bedframe import board_on_bed, keep_out_on_bed
from farbe.layout.beside import NUMBERS
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.guide import guide_reach
from farbe.layout.laid import laid
from farbe.layout.lengths import STRIP_GAP, STRIP_HIGH, STRIP_LINE, STRIP_WIDE
from farbe.layout.otherpockets import other_pockets
from farbe.model.layer import Layer
from farbe.model.patch import STRIP_INKS, Patch
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind
from farbe.said import say

#: Mm, width and height of a patch where there is little room: a device just finds its way in it.
SMALL = (6.0, 6.0)
#: Mm that stay free at the board's edge.
EDGE = 3.0
#: Square millimetres from which on free places are looked for in coarser steps.
LARGE = 250_000


@dataclass(frozen=True)
class LaidStrip:
    """A strip as it lies: its near left corner on the bed in mm, and patches in a row of it.

    ``on_board`` is false where it lies beside the board on the bed; ``wide`` and ``high`` are
    those of a patch.
    """

    x: float
    y: float
    columns: int
    patches: tuple[Patch, ...]
    on_board: bool = True
    wide: float = STRIP_WIDE
    high: float = STRIP_HIGH

    @property
    def rows(self) -> int:
        """How many rows its patches fill."""
        return -(-len(self.patches) // self.columns)

    @property
    def size(self) -> tuple[float, float]:
        """Mm across and along the bed, with the line below the patches."""
        return self.columns * self.wide, self.rows * self.high + STRIP_LINE


def own_patches(job: Faced) -> tuple[Patch, ...]:
    """What a job's own layers can show: bare, white, each ink and mixtures on the white.

    Parameters
    ----------
    job : as the face has it whose layers print

    Returns
    -------
    Nothing for a job without process colour.
    """
    colour, whites, blacks = strip_layers(job)
    if colour is None:
        return ()
    white, black = sum(la.hits for la in whites), sum(la.hits for la in blacks)
    found = [Patch(inks=inks, white=white) for inks in STRIP_INKS]
    found += [Patch(), *(Patch(white=white) for _ in range(2 if white else 0))]
    if white and black:
        found += [Patch(white=white, blackout=black)] * 2
    return tuple(found)


def strip_layers(job: Faced) -> tuple[Layer | None, tuple[Layer, ...], tuple[Layer, ...]]:
    """The layers that print a strip: colour, white behind it, blackout behind that.

    Parameters
    ----------
    job : as the face has it whose layers print
    """
    colour: Layer | None = None
    white, black = list[Layer](), list[Layer]()
    for layer in _from_the_eye(job):
        if colour is None:
            colour = layer if layer.kind is LayerKind.COLOUR else None
        elif layer.kind is LayerKind.WHITE and not black:
            white.append(layer)
        elif layer.kind is LayerKind.BLACKOUT:
            black.append(layer)
        else:
            break
    return colour, tuple(white), tuple(black)


def _from_the_eye(job: Faced) -> tuple[Layer, ...]:
    own = tuple(layer for layer in job.stack if layer.on and job.is_own(layer))
    return own[::-1] if job.reader is Reader.FACE else own


def no_strip(job: Faced) -> str:
    """Why a job cannot have a strip, as an end of a sentence; empty if it can.

    Parameters
    ----------
    job : as its first face has it
    """
    if not own_patches(job):
        return say("nothing prints in process colour")
    return carrier_of(job).no_strip(job)


def laid_strips(job: Faced) -> tuple[LaidStrip, ...]:
    """The strip of a board, or of each sheet of film; none where there is no room for it.

    Parameters
    ----------
    job : as one of its faces has it; a strip is printed with the first
    """
    if not job.marks.strip or job.number != 0 or no_strip(job):
        return ()
    return carrier_of(job).strips(job, own_patches(job))


@lru_cache(maxsize=8)
def strip_on_board(job: Faced, patches: tuple[Patch, ...]) -> tuple[LaidStrip, ...]:
    """In the free place of the board that is farthest from the operator, in as few rows as fit.

    Where the board is full it lies beside it on the bed.

    Parameters
    ----------
    job : with a board
    patches : of the strip

    Returns
    -------
    One; none where the bed is full.
    """
    wide, high = int(job.printer.bed_width), int(job.printer.bed_height)
    left, bottom, right, top = board_on_bed(job.jig.board, job.jig.datum, job.printer)
    taken = _taken(job, (high, wide))
    rows = slice(max(0, int(np.ceil(bottom + EDGE))), max(0, int(top - EDGE)))
    columns = slice(max(0, int(np.ceil(left + EDGE))), max(0, int(right - EDGE)))
    board = np.ones_like(taken)
    board[rows, columns] = taken[rows, columns]
    beside = taken.copy()
    beside[max(0, int(bottom)) : int(np.ceil(top)), max(0, int(left)) : int(np.ceil(right))] = 1
    for free, on_board in ((board, True), (beside, False)):
        sums = np.asarray(cv2.integral(free), np.int32)
        for side in ((STRIP_WIDE, STRIP_HIGH), SMALL):
            for count in (1, 2, 3, 4):
                for across in (-(-len(patches) // count), count):
                    one = LaidStrip(0.0, 0.0, across, patches, on_board, *side)
                    place = _free_place(sums, one.size)
                    if place is not None:
                        return (replace(one, x=float(place[0]), y=float(place[1])),)
    return ()


def _free_place(sums: npt.NDArray[np.int32], size: tuple[float, float]) -> tuple[int, int] | None:
    """The near left corner of the free rectangle that is farthest away, then most to the left.

    ``sums`` are those of all that is taken before each place, int32 (h + 1, w + 1).
    """
    wide, high = (int(np.ceil(side + 2 * STRIP_GAP)) for side in size)
    # It is looked for while the window waits.
    step = 1 if sums.size < LARGE else 4
    rows, columns = (range(0, end - by, step) for end, by in zip(sums.shape, (high, wide),
                                                                 strict=True))  # fmt: skip
    if not len(rows) or not len(columns):
        return None
    near, far = slice(0, rows.stop, step), slice(high, sums.shape[0], step)
    left, right = slice(0, columns.stop, step), slice(wide, sums.shape[1], step)
    inside = sums[far, right] - sums[near, right] - sums[far, left] + sums[near, left]
    free_rows = np.flatnonzero((inside == 0).any(axis=1))
    if not len(free_rows):
        return None
    row = int(free_rows[-1])
    column = int(np.argmax(inside[row] == 0))
    return columns[column] + round(STRIP_GAP), rows[row] + round(STRIP_GAP)


def _taken(job: Faced, size: tuple[int, int]) -> npt.NDArray[np.uint8]:
    """What of the bed is taken, 1 to a square millimetre; rows go away from the operator."""
    taken = np.zeros(size, np.uint8)

    def take(x0: float, y0: float, x1: float, y1: float) -> None:
        rows = slice(max(0, int(y0)), max(0, int(np.ceil(y1))))
        taken[rows, max(0, int(x0)) : max(0, int(np.ceil(x1)))] = 1

    marks = job.marks
    reach = max(
        job.bleed, guide_reach(job.guide) + (NUMBERS if job.guide.numbers else 0.0),
        max(marks.distance, job.bleed) + marks.length if marks.trim else 0.0,
    )  # fmt: skip
    for piece in laid(job):
        half_x, half_y = piece.size[0] / 2 + reach, piece.size[1] / 2 + reach
        take(piece.x - half_x, piece.y - half_y, piece.x + half_x, piece.y + half_y)
    for other in other_pockets(job):
        x0, y0, x1, y1 = other.outline.bounds
        take(other.x + x0 - reach, other.y + y0 - reach, other.x + x1 + reach,
             other.y + y1 + reach)  # fmt: skip
    for zone in job.jig.keep_outs:
        take(*keep_out_on_bed(zone, job.jig.datum, job.printer).bounds)
    if marks.label:
        left, bottom, right, _ = board_on_bed(job.jig.board, job.jig.datum, job.printer)
        take(left, bottom, right, bottom + _label_height(job))
    return taken


def _label_height(job: Faced) -> float:
    """Mm that the label takes at the near edge; a code is as high as 60 modules at most."""
    return EDGE + max(2.0 * job.marks.label_height, 30.0 if job.marks.qr else 0.0)
