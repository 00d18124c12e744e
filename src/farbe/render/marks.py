"""Trim marks, frame lines and the label, for the artwork's run."""

from __future__ import annotations

import datetime
from dataclasses import dataclass

import cv2
import numpy as np
from shapely.geometry import MultiPolygon, Polygon, box
from shapely.ops import unary_union

from farbe.art.artwork import Pixels
from farbe.kept import once
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.guide import jig_code
from farbe.layout.laid import LaidPiece, printed
from farbe.layout.lettering import in_one_line, resolved
from farbe.layout.placing import turned_box
from farbe.layout.pockets import footprint, piece_on_bed
from farbe.layout.rolls import line_places
from farbe.plan.order import channels, mirrored
from farbe.render.strip import strip_tiles
from farbe.render.tile import AreaTile, BlackOnly, Laid, TextTile, Tile, shape_rings
from farbe.separate.grid import Grid

#: Side of a QR code's module in mm.
MODULE = 0.5
#: Of the line by which side B of a film is found, in mm.
LINE_LENGTH, LINE_WIDTH = 60.0, 1.0


@dataclass(frozen=True, eq=False)
class CodeTile:
    """A QR code, hard-edged, one channel."""

    text: str
    grid: Grid

    @property
    def size(self) -> tuple[int, int]:
        return self._all.shape[1], self._all.shape[0]

    def rows(self, start: int, stop: int) -> Pixels:
        return self._all[start:stop]

    @once
    def _all(self) -> Pixels:
        # Needed seldom, and slow to load.
        import segno

        modules = np.array(segno.make(self.text, error="m").matrix, np.uint8) * np.uint8(255)
        side = len(modules) * MODULE
        size = self.grid.size(side, side)
        drawn = cv2.resize(modules, size, interpolation=cv2.INTER_NEAREST)
        return np.asarray(drawn, np.uint8)[..., None]


def label_words(job: Faced, today: datetime.date) -> str:
    """The label with its braces filled in, on one line.

    Parameters
    ----------
    job : as one of its faces has it
    today : the date on the label
    """
    known = {"job": job.name, "date": today.isoformat(), "code": jig_code(job)}
    return in_one_line(resolved(job.marks.label, known)).strip()


def marks_shape(job: Faced) -> MultiPolygon:
    """Trim marks and frame line around a piece that lies around (0, 0), in mm.

    Parameters
    ----------
    job : the job as one of its faces has it

    Returns
    -------
    Areas in mm.
    """
    marks, parts = job.marks, []
    piece = piece_on_bed(job)
    half = marks.line / 2
    if marks.frame:
        parts.append(piece.buffer(half).difference(piece.buffer(-half)))
    if marks.trim:
        left, bottom, right, top = piece.bounds
        near = max(marks.distance, job.bleed)
        far = near + marks.length
        for x in (left, right):
            parts += [box(x - half, bottom - far, x + half, bottom - near),
                      box(x - half, top + near, x + half, top + far)]  # fmt: skip
        for y in (bottom, top):
            parts += [box(left - far, y - half, left - near, y + half),
                      box(right + near, y - half, right + far, y + half)]  # fmt: skip
    found = unary_union(parts)
    return found if isinstance(found, MultiPolygon) else MultiPolygon([found])


def job_marks(job: Faced, grid: Grid, today: datetime.date) -> list[Laid]:
    """The marks of a job's artwork run; none without process black.

    Parameters
    ----------
    job : as one of its faces has it
    grid : pixels to the inch along either axis
    today : the date on the label
    """
    infos = channels(job)
    black = next(
        (i for i, c in enumerate(infos) if c.ink is job.printer.inks_of(c.layer.kind)[-1]
         and c.layer.kind.value == "colour"), None,
    )  # fmt: skip
    if black is None:
        return []
    count, turned = len(infos), mirrored(job.reader)
    found: list[Laid] = []
    found += side_lines(job, grid, black, count)
    if job.marks.trim or job.marks.frame:
        tiles: dict[int, BlackOnly] = {}
        for piece in printed(job):
            if piece.form not in tiles:
                tiles[piece.form] = BlackOnly(_around_piece(piece, grid), black, count)
            found.append(Laid(tiles[piece.form], piece.x, piece.y))
    for label in label_tiles(job, grid, today):
        found.append(Laid(BlackOnly(label.tile, black, count, turned), label.x, label.y))
    return found + strip_tiles(job, grid, infos, black, today)


def side_lines(job: Faced, grid: Grid, black: int, count: int) -> list[Laid]:
    """A line behind each side A, by which its side B is found.

    Parameters
    ----------
    job : the job as one of its faces has it
    grid : resolution along x and y
    black : channel of process black
    count : how many there are
    """
    size = grid.size(LINE_LENGTH, LINE_WIDTH)
    ring = np.array([(0, 0), (size[0], 0), size, (0, size[1])], np.float64)
    tile = BlackOnly(AreaTile(size, (ring,)), black, count)
    return [Laid(tile, x, y) for _, x, y in line_places(job)]


def label_tiles(job: Faced, grid: Grid, today: datetime.date) -> list[Laid]:
    """The label's code and words as one-channel tiles at the near left corner of board or film.

    Parameters
    ----------
    job : as one of its faces has it
    grid : pixels to the inch along either axis
    today : the date on the label
    """
    words = label_words(job, today)
    if not words:
        return []
    x, y = carrier_of(job).label_corner(job)
    tiles: list[Tile] = [CodeTile(words, grid)] if job.marks.qr else []
    tiles.append(TextTile(words, job.marks.label_height, grid))
    found = []
    for tile in tiles:
        wide, high = tile.size[0] / grid.per_mm_x, tile.size[1] / grid.per_mm_y
        found.append(Laid(tile, x + wide / 2, y + high / 2))
        x += wide + 2.0
    return found


def label_box(job: Faced, grid: Grid, today: datetime.date) -> Polygon | None:
    """What the label takes on the bed, in mm; None without one.

    Parameters
    ----------
    job : the job as one of its faces has it
    grid : resolution along x and y
    today : the day that a label says

    Returns
    -------
    A polygon in mm; None where there is none.
    """
    tiles = label_tiles(job, grid, today)
    if not tiles:
        return None
    return box(
        min(one.x - one.tile.size[0] / grid.per_mm_x / 2 for one in tiles),
        min(one.y - one.tile.size[1] / grid.per_mm_y / 2 for one in tiles),
        max(one.x + one.tile.size[0] / grid.per_mm_x / 2 for one in tiles),
        max(one.y + one.tile.size[1] / grid.per_mm_y / 2 for one in tiles),
    )


def _around_piece(piece: LaidPiece, grid: Grid) -> AreaTile:
    """The marks of one piece, centred and turned exactly as the piece's own tile is."""
    job = piece.of
    width, height = footprint(job.jig, job.piece.shape)
    wide, high = width + 2 * job.bleed, height + 2 * job.bleed
    if piece.turn:
        wide, high = turned_box(wide, high, piece.turn)
    own = grid.size(wide, high)
    room = max(job.marks.distance, job.bleed) + job.marks.length + 1.0
    size = (
        own[0] + 2 * int(np.ceil(room * grid.per_mm_x)),
        own[1] + 2 * int(np.ceil(room * grid.per_mm_y)),
    )
    return AreaTile(size, shape_rings(piece.around(marks_shape(job)), size, grid))
