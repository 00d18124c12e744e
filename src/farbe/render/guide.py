"""The guide as a print."""

from __future__ import annotations

import math

from farbe.layout.bedframe import board_on_bed
from farbe.layout.faced import Faced
from farbe.layout.frame import BedFrame, printer_frame
from farbe.layout.guide import guide_ink, guide_reach, guide_shape, jig_code
from farbe.layout.laid import LaidPiece, laid
from farbe.render.bed import BedRaster, as_loaded
from farbe.render.raster import ChannelInfo
from farbe.render.tile import AreaTile, Laid, TextTile, shape_rings
from farbe.separate.grid import Grid

#: Height of figures, and how far they stand off from the pocket, in mm.
FIGURES = 3.2
CODE_FIGURES = 4.0
STAND_OFF = 0.8


def guide_tile(piece: LaidPiece, grid: Grid) -> AreaTile:
    """What is printed around one piece, centred exactly as the piece's own tile is.

    Parameters
    ----------
    piece : as it is laid
    grid : pixels to the inch along either axis
    """
    job = piece.job
    width, height = piece.size
    own = grid.size(width + 2 * job.bleed, height + 2 * job.bleed)
    room = guide_reach(job.guide) + 1.0
    # An even number of pixels more keeps the middle where the piece's tile has it.
    size = (
        own[0] + 2 * math.ceil(room * grid.per_mm_x),
        own[1] + 2 * math.ceil(room * grid.per_mm_y),
    )
    shape = piece.around(guide_shape(job.guide, piece.straight))
    return AreaTile(size, shape_rings(shape, size, grid))


def _numbers(job: Faced, grid: Grid) -> list[Laid]:
    """Each pocket's number at the far left of it, outside the guide's lines."""
    off = guide_reach(job.guide) + STAND_OFF
    found = []
    for pocket in laid(job):
        width, height = pocket.size
        tile = TextTile(str(pocket.shown), FIGURES, grid)
        wide = tile.size[0] / grid.per_mm_x
        x = pocket.x - width / 2 - off + wide / 2
        found.append(Laid(tile, x, pocket.y + height / 2 + off - FIGURES / 2))
    return found


def _code(job: Faced, grid: Grid) -> Laid:
    """The jig's code at the board's near right corner."""
    tile = TextTile(jig_code(job), CODE_FIGURES, grid)
    wide, high = tile.size[0] / grid.per_mm_x, tile.size[1] / grid.per_mm_y
    _, bottom, right, _ = board_on_bed(job.jig.board, job.jig.datum, job.printer)
    return Laid(tile, right - 3.0 - wide / 2, bottom + 2.0 + high / 2)


def guide_channel(job: Faced) -> ChannelInfo:
    """The one channel of a job's guide, named as its receiver wants it.

    Parameters
    ----------
    job : as one of its faces has it
    """
    ink = guide_ink(job)
    return ChannelInfo(job.receiver.channel(ink.name), ink.shown, ink.kind.value)


def guide_bed(job: Faced, *, frame: BedFrame | None = None) -> BedRaster:
    """The guide's run of a job, in the same frame and at the same positions as the artwork's.

    Parameters
    ----------
    job : as the face has it whose guide is wanted
    frame : of the bed; the printer's if not given

    Returns
    -------
    One channel.
    """
    frame = frame or printer_frame(job)
    made: dict[int, AreaTile] = {}
    tiles = list[Laid]()
    for piece in laid(job):
        if piece.form not in made:
            made[piece.form] = guide_tile(piece, frame.grid)
        tiles.append(Laid(made[piece.form], piece.x, piece.y))
    if job.guide.numbers:
        tiles += [*_numbers(job, frame.grid), _code(job, frame.grid)]
    return BedRaster(frame, as_loaded(tiles, frame, turned=job.bed_turned), (guide_channel(job),))
