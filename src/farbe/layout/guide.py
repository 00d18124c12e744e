"""The guide's lines around one pocket, in millimetres: the one source for print and files."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable
from functools import lru_cache

import numpy as np
import shapely
from shapely.geometry import MultiPolygon, Polygon, box
from shapely.ops import unary_union

from farbe.layout.faced import Faced
from farbe.layout.laid import places
from farbe.layout.pockets import Pocket, bed_pockets, piece_on_bed
from farbe.model.base import rgb
from farbe.model.jig import Guide, GuideStyle, Jig, Side
from farbe.model.printer import Ink, LayerKind

#: Letters and figures that are not taken for one another.
_LETTERS = "ABCDEFGHJKLMNPRTUVWXYZ346789"
#: Boards darker than this lightness (0 to 1) get a white guide.
DARK = 0.35


# The same for most edits of a job.
@lru_cache(maxsize=64)
def guide_shape(guide: Guide, piece: Polygon) -> MultiPolygon:
    """What is printed around a piece that lies around (0, 0), as areas of ink.

    Parameters
    ----------
    guide : style and sizes in mm
    piece : outline as it lies, in mm around (0, 0)

    Returns
    -------
    Areas in mm around (0, 0).
    """
    piece = Polygon(piece.exterior)
    match guide.style:
        case GuideStyle.OUTLINE:
            return _multi(_ring(piece, guide.distance, guide.line_width))
        case GuideStyle.TICKS:
            return _ticks(guide, piece)
        case GuideStyle.KERB:
            ring = _ring(piece, guide.distance, guide.kerb_width)
            left_out = [_beside(ring, side) for side in Side if side not in guide.kerb_sides]
            return _multi(ring.difference(unary_union([_finger_gaps(guide, ring), *left_out])))


def _multi(shape: Polygon | MultiPolygon) -> MultiPolygon:
    return shape if isinstance(shape, MultiPolygon) else MultiPolygon([shape])


def _grown(piece: Polygon, by: float) -> Polygon:
    return piece.buffer(by, quad_segs=64, join_style="mitre")


def _ring(piece: Polygon, distance: float, width: float) -> Polygon:
    return _grown(piece, distance + width).difference(_grown(piece, distance))


def _finger_gaps(guide: Guide, ring: Polygon) -> Polygon:
    """Strips across the middle of each side, where the kerb is open."""
    left, bottom, right, top = ring.bounds
    half = guide.finger_gap / 2
    return unary_union([box(left, -half, right, half), box(-half, bottom, half, top)])


def _beside(ring: Polygon, side: Side) -> Polygon:
    """The wedge from a ring's middle over one of its sides, between the diagonals of its box."""
    left, bottom, right, top = ring.bounds
    middle = ((left + right) / 2, (bottom + top) / 2)
    ends = {
        Side.LEFT: ((left, bottom), (left, top)),
        Side.RIGHT: ((right, bottom), (right, top)),
        Side.NEAR: ((left, bottom), (right, bottom)),
        Side.FAR: ((left, top), (right, top)),
    }[side]
    return Polygon([middle, *ends])


def _ticks(guide: Guide, piece: Polygon) -> MultiPolygon:
    """Two short lines at each corner of the piece's box, off by the distance."""
    left, bottom, right, top = _grown(piece, guide.distance + guide.line_width).bounds
    long, wide = guide.tick_length, guide.line_width
    parts = []
    for x, inward_x in ((left, 1), (right, -1)):
        for y, inward_y in ((bottom, 1), (top, -1)):
            parts.append(_box(x, y, inward_x * long, inward_y * wide))
            parts.append(_box(x, y, inward_x * wide, inward_y * long))
    return _multi(unary_union(parts))


def _box(x: float, y: float, width: float, height: float) -> Polygon:
    return box(min(x, x + width), min(y, y + height), max(x, x + width), max(y, y + height))


def guide_reach(guide: Guide) -> float:
    """How far beyond the piece the guide prints, in mm.

    Parameters
    ----------
    guide : style and sizes in mm

    Returns
    -------
    Millimetres.
    """
    width = guide.kerb_width if guide.style is GuideStyle.KERB else guide.line_width
    return guide.distance + width


def guide_ink(job: Faced) -> Ink:
    """The ink that the guide is printed in; a kerb is varnish.

    Parameters
    ----------
    job : as one of its faces has it
    """
    inks = {ink.name: ink for ink in job.printer.inks}
    if job.guide.style is GuideStyle.KERB:
        varnish = job.printer.inks_of(LayerKind.VARNISH)
        if varnish:
            return varnish[0]
    if job.guide.ink is not None:
        return inks[job.guide.ink]
    white = job.printer.inks_of(LayerKind.WHITE)
    if white and lightness(job.jig.board.colour) < DARK:
        return white[0]
    return job.printer.inks_of(LayerKind.COLOUR)[-1]


def lightness(colour: str) -> float:
    """CIE L* / 100 of ``#rrggbb`` (CIE 15:2004, from the luminance of sRGB).

    Parameters
    ----------
    colour : ``#rrggbb``

    Returns
    -------
    0 (black) to 1 (white).
    """
    linear = []
    for level in rgb(colour):
        v = level / 255
        linear.append(v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4)
    y = 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]
    return 1.16 * y ** (1 / 3) - 0.16 if y > 216 / 24389 else y * 24389 / 2700


def shared_code(jobs: tuple[Faced, ...]) -> str:
    """The codes of all jobs on one bed.

    Parameters
    ----------
    jobs : that lie on one bed, at least one
    """
    return "+".join(dict.fromkeys(jig_code(job) for job in jobs))


def _corners(job: Faced) -> list[tuple[float, float]]:
    """Some of a piece's corners; sorted, so that its mirror image counts as the same if it is."""
    return list(_some_corners(shapely.get_coordinates(piece_on_bed(job).exterior).tobytes()))


@lru_cache(maxsize=64)
def _some_corners(ring: bytes) -> tuple[tuple[float, float], ...]:
    """The same of a ring, float64 (n, 2); a piece stays as it is at most edits."""
    corners = sorted({
        (round(x, 3) + 0.0, round(y, 3) + 0.0)
        for x, y in np.frombuffer(ring, np.float64).reshape(-1, 2).tolist()
    })  # fmt: skip
    return tuple(corners[:: max(1, len(corners) // 64)])


class _Told(dict[float, str]):
    """Millimetres or degrees to three places; of a grid's thousand pockets few differ in one."""

    def __missing__(self, figure: float) -> str:
        told = self[figure] = json.dumps(round(figure, 3))
        return told


def _pockets_told(jig: Jig, kinds: Iterable[tuple[str, Iterable[Pocket]]]) -> str:
    """Number, kind if there are several, and place of each pocket, as JSON.

    It is written here since it takes a third of the time of asking for it.
    """
    told, before = _Told(), jig.count_from - 1
    return ", ".join([
        f"[{number + before}{kind}, {told[x]}, {told[y]}{f', {told[turn]}' if turn else ''}]"
        for kind, pockets in kinds
        for number, _, _, x, y, _, turn in pockets
    ])  # fmt: skip


@lru_cache(maxsize=8)
def jig_code(job: Faced) -> str:
    """A short code of where every pocket lies and its number: the same jig and bed give the same.

    Two runs fit each other exactly when their codes are equal. It is read by eye, so it leaves
    out letters that look alike.

    Parameters
    ----------
    job : as one of its faces has it

    Returns
    -------
    Six letters and figures with a dash between: ``ABC-346``.
    """
    facts: dict[str, object] = {
        "bed": (job.printer.bed_width, job.printer.bed_height),
        "turned": job.bed_turned,
    }
    kinds: list[tuple[str, Iterable[Pocket]]]
    if job.jig.kinds:
        # Jobs that share the board have the same code.
        facts["kinds"] = [
            _corners(job.replace(piece=job.piece.replace(shape=kind.shape)))
            for kind in job.jig.kinds
        ]
        kinds = [
            (f", {kind}", bed_pockets(job.replace(jig=job.jig.replace(kind=kind))))
            for kind in range(len(job.jig.kinds))
        ]
    else:
        facts["piece"] = _corners(job)
        kinds = [("", (piece.pocket for piece in places(job)))]
    text = f'{json.dumps(facts)[:-1]}, "pockets": [{_pockets_told(job.jig, kinds)}]}}'
    digest = hashlib.sha256(text.encode()).digest()
    number = int.from_bytes(digest[:8], "big")
    letters = []
    for _ in range(6):
        number, index = divmod(number, len(_LETTERS))
        letters.append(_LETTERS[index])
    return "".join(letters[:3]) + "-" + "".join(letters[3:])
