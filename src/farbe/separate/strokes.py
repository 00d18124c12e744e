"""Strokes of a plate, and what is to stay around their middle lines.

What follows from a plate alone is kept for pictures, whose choke is changed by little each time.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
import numpy.typing as npt

from farbe.kept import Kept
from farbe.separate.blocks import Block
from farbe.separate.choke import Plate
from farbe.separate.climb import LOWEST, Climb, rimmed
from farbe.separate.former import made_anew, nearest
from farbe.separate.grid import Grid, disc, pixel_length, pixel_side, pixels_in
from farbe.separate.masks import any_within
from farbe.separate.middle import (
    FAR,
    FINE,
    Units,
    distances,
    hardened,
    relative,
    ridges,
    seen_around,
    unit_of,
    up_to,
)

#: Corners of right angles and wider ones are no strokes: there the distance to the edge grows
#: along the middle line by 0.71 at the most.
CORNER = math.sqrt(2.0)
#: The most that the middle line of a stroke rises, as a share of the way.
FLAT = 0.6
#: The same on a longer way, in pixels, so that a middle line between pixels tells: what climbs more
#: all along is a corner, however acute; a stroke climbs where it runs into a broader one.
LONG, CLIMB = 4, 0.22
#: Units that count for nothing.
TIE = 1e-3
#: Units that a neighbour of a middle line's pixel is higher at the most, three quarters of a pixel;
#: beside it one is as far as the next pixel.
CREST = 3 * FINE // 4
#: Units above which no distance is told, some 440 pixels: they have 16 bits, and the way to
#: the next pixels is added to them. Broader strokes are none.
HIGHEST = 28_000
#: Rows and columns that are made anew together where few pixels differ.
SOME = 128
#: Pixels around an edge from which it is told, since it is smoothed.
EDGES = 5
#: Mm to which chokes are rounded up in how far around is seen; and, of pictures, in how far around
#: distances are found, so that the next choke, which is mostly a little larger, has them.
STEP, AHEAD = 0.05, 0.25
#: Mm by which a choke is changed at the least.
LITTLE = 0.01


def strokes_reach(by: float, least: float, grid: Grid) -> float:
    """Mm of a plate beyond which :func:`strokes_in` sees nothing.

    Parameters
    ----------
    by : choke in mm, over 0
    least : width in mm that is spared, over 0
    grid : resolution
    """
    by = rounded(by)
    spine = _edges_reach(_cap(by, least, grid), grid) + _lines_reach(least, grid)
    return by + least / 2 + pixel_side(grid) + spine


def _edges_reach(cap: float, grid: Grid) -> float:
    """Mm beyond which :func:`_edges` sees nothing."""
    return cap + EDGES * pixel_length(grid)


def _lines_reach(least: float, grid: Grid) -> float:
    """Mm beyond which :func:`_lines` sees nothing."""
    pixel = pixel_side(grid)
    rise = max(CORNER * (least / 2 + pixel / 2), 2 * LONG * pixel + pixel_length(grid))
    # Ridges are seen from the second pixel, and bands are of whole ones.
    return rise + least / 2 + pixel + 2 * pixel_length(grid)


def middles_reach(by: float, least: float, grid: Grid) -> float:
    """Mm of strokes beyond which :meth:`Strokes.middles` sees nothing.

    Parameters
    ----------
    by : choke in mm, over 0
    least : width in mm that is spared, over 0
    grid : resolution
    """
    return least / 2 + (_steps(rounded(by), grid) + 2) * pixel_length(grid)


def rounded(by: float) -> float:
    """A choke in mm, rounded up: those that differ by little see equally far.

    Parameters
    ----------
    by : mm, over 0
    """
    return _up(by, STEP)


def onward(by: float, before: float) -> float:
    """The choke in mm that comes next on the way from another, of those that see otherwise.

    Parameters
    ----------
    by : mm, over 0
    before : mm, another

    Returns
    -------
    Mm; 0 if there is none on the way down.
    """
    # On the way up the first of the next ones, and the last of them on the way down.
    return round(rounded(by) + (LITTLE if by > before else -STEP), 6)


def ahead(by: float, grid: Grid) -> float:
    """A choke in mm, as large as pictures look around for: those that are a little larger, too.

    Where pixels are longer than wide, to the nearest unit distances depend on how far is looked.

    Parameters
    ----------
    by : mm, over 0
    grid : resolution
    """
    return _up(by, AHEAD) if grid.dpi_x == grid.dpi_y else rounded(by)


def _up(by: float, step: float) -> float:
    return math.ceil(by / step - 1e-9) * step


def where(mask: object, plate: object) -> Plate:
    """A plate where a mask is not 0, and nothing elsewhere, uint8 (h, w).

    Parameters
    ----------
    mask, plate : uint8 (h, w)
    """
    return np.asarray(cv2.copyTo(plate, mask), np.uint8)  # type: ignore[call-overload]


def _cap(by: float, least: float, grid: Grid) -> float:
    """Mm above which distances from the edge do not matter."""
    return min(by + least / 2 + 2 * pixel_side(grid), HIGHEST * unit_of(grid))


def _steps(by: float, grid: Grid) -> int:
    """Pixels that a bridge to what is left by the choke may be long."""
    return math.ceil(1.6 * by / pixel_side(grid)) + 2


@dataclass(frozen=True, eq=False)
class _Spine:
    """What of a plate's strokes no choke changes.

    Attributes
    ----------
    levels : that it is of, uint8 (h, w)
    cover : how far pixels are covered by what the plate draws, uint8 (h, w)
    far : distance to its edge, int16 (h, w), in parts of :func:`unit_of`
    share : how far pixels lie in a band around middle lines of strokes, uint8 (h, w)
    joints : 255 where strokes may meet, whose height makes them look thinner than they are, uint8
    """

    levels: Plate
    cover: Plate
    far: Units
    share: Plate
    joints: Plate

    @property
    def nbytes(self) -> int:
        """Bytes that it takes, with what it is known by."""
        return 3 * self.cover.nbytes + self.far.nbytes + self.share.nbytes + self.joints.nbytes

    def part(self, block: Block) -> _Spine:
        """A block of it.

        Parameters
        ----------
        block : rows and columns
        """
        at = block.place
        return _Spine(
            self.levels[at], self.cover[at], self.far[at], self.share[at], self.joints[at]
        )


def _spine(levels: Plate, by: float, least: float, grid: Grid) -> _Spine:
    """Of coverage in terms of the most around it; the band is ``least`` mm wide."""
    cap = _cap(by, least, grid)
    cover, far = _edges(levels, cap, grid)
    return _Spine(levels, cover, far, *_lines(far, cap, least, grid))


def _edges(levels: Plate, cap: float, grid: Grid) -> tuple[Plate, Units]:
    """How far pixels are covered, and how far they are from the edge of that."""
    cover = hardened(levels)
    return cover, distances(cover, cap, grid)


def _lines(far: Units, cap: float, least: float, grid: Grid) -> tuple[Plate, Plate]:
    """The band around middle lines, and where these may meet."""
    unit, pixel = unit_of(grid), pixel_side(grid)
    ridge = ridges(far, grid)
    # Whole pixels, so that the way is as long along rows and columns as across.
    side = pixel_length(grid)
    reach = math.ceil(CORNER * (least / 2 + pixel / 2) / side) * side
    highest = np.asarray(cv2.dilate(ridge, disc(reach, grid)), np.int16)
    # A pixel lies in the band as far as its distance to the middle line says.
    band = cv2.LUT((highest - far).view(np.uint16), _band_by_units(least, grid))
    # At corners the distance grows along the middle line, which is no stroke's.
    rise = highest - ridge
    # Units are whole: they are compared with whole ones, which takes a part of the time.
    flat, joined = (math.floor(share * reach / unit + TIE) for share in (FLAT, FLAT / 3))
    level = (rise <= flat) & _near_strokes(far, ridge, cap, grid)
    near = any_within(level.view(np.uint8), disc(least / 2 + pixel, grid))
    crest = np.asarray(cv2.dilate(ridge, np.ones((3, 3), np.uint8))) - ridge < CREST
    joints = crest & level & (rise > joined)
    return where(near, band), joints.view(np.uint8) * np.uint8(255)


#: Of pictures, by the levels that they are of: covers and distances, and spines.
_EDGES: Kept[tuple[bytes, tuple[int, ...], float, Grid], tuple[Plate, Plate, Units]] = Kept(
    200, most=48 << 20, weigh=lambda edges: 2 * edges[0].nbytes + edges[1].nbytes + edges[2].nbytes
)
_SPINES: Kept[tuple[bytes, tuple[int, ...], float, float, Grid], _Spine] = Kept(
    400, most=96 << 20, weigh=lambda spine: spine.nbytes
)


def _kept_spine(levels: Plate, by: float, least: float, grid: Grid) -> _Spine:
    """The same for a picture, of which the ones before mostly differ little.

    Mostly a few pixels do by a level or two, which change nothing of what follows from them.
    """
    cap, drawn = _cap(by, least, grid), levels.tobytes()

    def made() -> _Spine:
        cover, far = _kept_edges(levels, drawn, by, least, grid)
        like = nearest(_SPINES, (levels.shape, cap, least, grid), levels, lambda one: one.levels)
        lines = None if like is None else (like.far, (like.share, like.joints))
        share, joints = made_anew(
            lambda some, _: _lines(some, cap, least, grid), far, lines,
            pixels_in(_lines_reach(least, grid), grid), SOME,
        )  # fmt: skip
        return _Spine(levels, cover, far, share, joints)

    return _SPINES.get((drawn, levels.shape, cap, least, grid), made)


def _kept_edges(
    levels: Plate, drawn: bytes, by: float, least: float, grid: Grid
) -> tuple[Plate, Units]:
    """How far pixels are covered, and from the edge, of distances that are found ahead."""
    cap, most = _cap(by, least, grid), _cap(ahead(by, grid), least, grid)
    # Those that are found in one step are the same, up to where they are told.
    found = max(cap, min(most, FAR * pixel_side(grid)))

    def made() -> tuple[Plate, Plate, Units]:
        like = nearest(_EDGES, (levels.shape, found, grid), levels, lambda one: one[0])
        cover, far = made_anew(
            lambda some, _: _edges(some, found, grid), levels, like and (like[0], like[1:]),
            pixels_in(_edges_reach(found, grid), grid), SOME,
        )  # fmt: skip
        return levels, cover, far

    _, cover, far = _EDGES.get((drawn, levels.shape, found, grid), made)
    return cover, up_to(far, round(cap / unit_of(grid)))


@lru_cache(maxsize=64)
def _band_by_units(least: float, grid: Grid) -> Plate:
    """How far a pixel so many units from a middle line lies in the band around it, (65536,)."""
    pixel = pixel_side(grid)
    share = np.arange(1 << 16, dtype=np.float32) * np.float32(-255.0 * unit_of(grid) / pixel)
    share += np.float32(255.0 * (least / 2 + pixel / 2) / pixel)
    return np.asarray(cv2.convertScaleAbs(np.maximum(share, np.float32(0.0))), np.uint8).ravel()


def _near_strokes(far: Units, ridge: Units, cap: float, grid: Grid) -> npt.NDArray[np.bool_]:
    """Where middle lines that climb little on a long way are near, bool (h, w).

    The lines of corners climb all along. Those of strokes do where these end in broader ones, but
    not farther off.
    """
    unit, pixel = unit_of(grid), pixel_side(grid)
    way = LONG * pixel
    highest = np.asarray(cv2.dilate(ridge, disc(way, grid)), np.int16)
    # What is as high as distances are told may be higher.
    told = (far > -FINE // 2) & (highest <= math.floor((cap - pixel / 2) / unit))
    runs = told & (highest - ridge <= math.floor(CLIMB * way / unit))
    return any_within(runs.view(np.uint8), disc(way + pixel_length(grid), grid)) > 0


def _solid(plate: object) -> Plate:
    """255 where a plate covers half a pixel and more."""
    return np.asarray(cv2.threshold(plate, 127, 255, cv2.THRESH_BINARY)[1], np.uint8)  # type: ignore[call-overload]


@dataclass(frozen=True, eq=False)
class Strokes:
    """What of a plate's strokes no choke changes, if all see the same around a pixel.

    Attributes
    ----------
    band : of ``least`` mm around middle lines, uint8 (h, w)
    joints : 255 where strokes meet that make it narrower than it is to be, uint8 (h, w)
    rises : pixels of the band from which one climbs out of it, counted row by row
    climb : the ways up the distances to the edge
    least : width in mm
    grid : resolution
    """

    band: Plate
    joints: Plate
    rises: npt.NDArray[np.intp]
    climb: Climb
    least: float
    grid: Grid

    @classmethod
    def of(cls, spine: _Spine, plate: Plate, full: Plate, least: float, grid: Grid) -> Strokes:
        """Of a plate and the most that it covers around each pixel, uint8 (h, w)."""
        band = cv2.min(cv2.multiply(spine.share, full, scale=1.0 / 255.0), plate)
        # What lies outside is no stroke, and has no middle.
        faint = cv2.compare(cv2.add(plate, plate), full, cv2.CMP_LT)
        outside = cv2.bitwise_and(faint, cv2.inRange(spine.cover, (0,), (0,)))
        band = where(cv2.bitwise_not(outside), band)
        weak = cv2.bitwise_and(cv2.inRange(band, (0,), (199,)), cv2.inRange(plate, (128,), (255,)))
        joints = np.asarray(cv2.bitwise_and(weak, spine.joints), np.uint8)
        # Who climbs within what is spared gets nowhere new: each pixel there begins by itself, and
        # goes where it is higher outside.
        solid, far = _solid(band), spine.far
        beyond = cv2.copyTo(far, cv2.bitwise_not(solid), np.full_like(far, LOWEST))
        climbs = np.asarray(cv2.dilate(beyond, np.ones((3, 3), np.uint8))) > far
        rises = np.flatnonzero(climbs & solid.view(bool))
        return cls(band, joints, rises, Climb.of(far, grid), least, grid)

    @property
    def nbytes(self) -> int:
        """Bytes that they take, with what they are known by."""
        parts = self.band, self.joints, self.rises, self.climb.heights, self.climb.onward
        return self.band.nbytes + sum(part.nbytes for part in parts)

    def middles(self, plate: Plate, choked: Plate, by: float) -> Plate:
        """What is to stay of a plate around the middle lines of its strokes, uint8 (h, w).

        Parameters
        ----------
        plate : that has them, uint8 (h, w)
        choked : the same after a choke
        by : mm by which it was choked
        """
        way = cv2.bitwise_or(self._ways(choked, _steps(by, self.grid)), self.joints)
        if not cv2.hasNonZero(way):
            return self.band
        grown = any_within(np.asarray(way, np.uint8), disc(self.least / 2, self.grid))
        return np.maximum(self.band, np.minimum(grown, plate))

    def _ways(self, choked: Plate, steps: int) -> Plate:
        """Pixels on the way from the ends of what is spared to what the choke left: 255 there.

        Where a stroke runs into a broader one, its middle line climbs until the choke leaves it.
        """
        high, wide = choked.shape
        begun = self.rises[choked.take(self.rises) < 128]
        if not len(begun):
            return np.zeros_like(choked)
        ends = rimmed(_solid(cv2.max(self.band, choked)), 0)
        passed = np.zeros(ends.shape, np.uint8)
        # Each pixel has a neighbour on all sides in planes with a rim.
        at = begun + 2 * (begun // wide) + wide + 3
        for _ in range(steps):
            at = self.climb.higher(at)
            at = at[ends.take(at) == 0]
            if not len(at):
                break
            ends[at] = passed[at] = 255
        return passed.reshape(high + 2, wide + 2)[1:-1, 1:-1]


#: What a plate's strokes follow from besides it: a block that is wanted, and all that is seen
#: around a pixel, which of most chokes that differ by little is the same.
_Seen = tuple[bytes, tuple[int, ...], Block, bytes, float, float, Grid]
#: Those of pictures.
_STROKES: Kept[_Seen, Strokes] = Kept(400, most=64 << 20, weigh=lambda strokes: strokes.nbytes)


def strokes_in(
    plate: Plate, block: Block, by: float, least: float, grid: Grid, *, kept: bool
) -> Strokes:
    """The strokes in a block of a plate.

    Parameters
    ----------
    plate : coverage before a choke, uint8 (h, w), with :func:`strokes_reach` around the block
    block : rows and columns that are wanted
    by : the choke in mm
    least : width in mm that is spared
    grid : resolution
    kept : for the next picture with another choke
    """
    radius, cap = by + least / 2, _cap(rounded(by), least, grid)

    def made() -> Strokes:
        levels, full = relative(plate, radius, grid)
        spine = (_kept_spine if kept else _spine)(levels, rounded(by), least, grid).part(block)
        return Strokes.of(spine, plate[block.place], full[block.place], least, grid)

    if not kept:
        return made()
    seen = seen_around(radius, grid).tobytes()
    return _STROKES.get((plate.tobytes(), plate.shape, block, seen, cap, least, grid), made)
