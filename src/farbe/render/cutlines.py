"""Lines to cut artworks apart along their shapes, or along the cut line that a file brings."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import cv2
import numpy as np
import numpy.typing as npt
from shapely import LineString, MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from farbe.art.artwork import Artwork
from farbe.kept import Kept, once
from farbe.layout.cutfile import CutLine
from farbe.layout.faced import Faced
from farbe.model.artwork import ArtworkFile
from farbe.model.meaning import Meaning
from farbe.model.roll import Cut, Roll
from farbe.plan.order import mirrored
from farbe.render.footprints import LEAST
from farbe.render.sources import Sources
from farbe.separate.choke import Plate

#: Cells that outlines are traced in: mm, and the most of them along a side.
CELL, MOST = 0.1, 4000
#: Radius in mm that inner corners get, so that a knife can follow.
ROUND = 0.5
#: Of the way from an artwork to its line, the last mm that are exact.
NEAR = 0.5
#: Cells of the largest plane in which shapes are grown.
GROWN = 30_000_000
#: How far a line may stray for having fewer corners, in mm.
STRAY = 0.03
#: The same for lines that are looked at from further and further away.
SEEN = (0.12, 0.5, 2.0)


@dataclass(frozen=True, eq=False)
class CutShape:
    """Where one artwork is cut: closed lines in mm around its middle, y up, float64 (n, 2) each."""

    lines: tuple[CutLine, ...]

    @once
    def seen(self) -> tuple[tuple[float, tuple[CutLine, ...]], ...]:
        """The lines with fewer and fewer corners, and how far they stray for that, in mm."""
        return tuple((stray, tuple(_plainer(line, stray) for line in self.lines)) for stray in SEEN)

    def within(self, stray: float) -> tuple[CutLine, ...]:
        """The lines with as few corners as there are, mostly, for so many mm that they may stray.

        Parameters
        ----------
        stray : mm
        """
        far = [lines for most, lines in self.seen if most <= stray]
        return far[-1] if far else self.lines

    @once
    def mirrored(self) -> CutShape:
        """The same, left and right exchanged."""
        return CutShape(tuple(line * (-1.0, 1.0) for line in self.lines))


#: Of the artworks that were asked for last; they are worked out slowly.
_SHAPES: Kept[tuple[ArtworkFile, float, Cut], CutShape] = Kept(
    5000, most=32 << 20, weigh=lambda shape: sum(line.nbytes for line in shape.lines)
)


def cut_shapes(job: Faced, sources: Sources) -> dict[str, CutShape]:
    """Where each artwork on a job's film is cut, by its digest; none if rectangles are cut.

    Of artworks that are cut as before they are the very same values.

    Parameters
    ----------
    job : the job as one of its faces has it
    sources : pixels, fonts and profile

    Returns
    -------
    As it is printed: mirrored, if that is.
    """
    roll = job.roll
    if roll is None or roll.cut is Cut.BOXES:
        return {}
    found = {file.key: _kept(job, roll, file, sources) for file in job.artworks}
    if mirrored(job.reader):
        return {key: shape.mirrored for key, shape in found.items()}
    return found


def cut_lines(job: Faced, sources: Sources) -> dict[str, tuple[CutLine, ...]]:
    """Closed lines for each artwork on a job's film, by its digest; none if rectangles are cut.

    Lines are in mm around the artwork's middle, y up, as it is printed: mirrored, if that is.

    Parameters
    ----------
    job : the job as one of its faces has it
    sources : pixels, fonts and profile
    """
    return {key: shape.lines for key, shape in cut_shapes(job, sources).items()}


def _kept(job: Faced, roll: Roll, file: ArtworkFile, sources: Sources) -> CutShape:
    # An artwork is known by what is in it, so its lines are the same wherever it comes from.
    key = (file.plain, roll.beyond, roll.cut)
    whole = roll.cut is Cut.SHAPES
    return _SHAPES.get(
        key, lambda: CutShape(artwork_lines(job, file, sources, roll.beyond, whole=whole))
    )


def artwork_lines(
    job: Faced, file: ArtworkFile, sources: Sources, beyond: float, *, whole: bool = True
) -> tuple[CutLine, ...]:
    """Where one artwork is cut: along its own cut lines, else ``beyond`` mm off its shape.

    Parameters
    ----------
    job, file : a job, and a file of it
    sources : pixels, fonts and profile
    beyond : mm between what is printed and the line
    whole : it stays in one piece: gaps between its parts are bridged

    Returns
    -------
    Closed lines in mm around the artwork's middle, y up, not mirrored; none of empty artwork.

    Raises
    ------
    BadInput
        If the artwork's file cannot be read.
    """
    art = sources.artwork(file, job)
    own = [use.name for use in file.plates if use.meaning is Meaning.CUT]
    drawn = [art.plates[name] for name in own if name in art.plates and art.plates[name].any()]
    wide, high = file.cropped
    if drawn:
        found = _middles(_solid(np.maximum.reduce(drawn), 128, wide, high))
    else:
        cells = _solid(_cover(art), LEAST, wide, high)
        # Holes that are left there are not cut out.
        steps = max(0, math.floor((beyond - NEAR) / cells.side))
        filled, rest = cells.grown(steps).filled(), beyond - steps * cells.side
        found = _around(filled, rest, ROUND)
        if whole:
            found = _bridged(filled, rest, found, math.hypot(wide, high))
    return tuple(_line(part) for part in _parts(found))


def covered_area(art: Artwork, wide: float, high: float) -> tuple[BaseGeometry, float]:
    """What an artwork covers, without its holes filled, and the side of the cells it is traced in.

    Parameters
    ----------
    art : pixels
    wide, high : of the artwork as it is printed, mm

    Returns
    -------
    In mm around the artwork's middle, y up, not mirrored; mm.
    """
    cells = _solid(_cover(art), LEAST, wide, high)
    return area_of_cells(cells.solid, cells.across, cells.up), max(cells.across, cells.up)


def area_of_cells(solid: Plate, across: float, up: float) -> BaseGeometry:
    """Cells as areas.

    Parameters
    ----------
    solid : 0 or 1, uint8 (h, w), y down, with an empty rim
    across, up : width and height of a cell in mm

    Returns
    -------
    In mm around the middle of all cells, y up.
    """
    return unary_union(_areas(_Cells(solid, across, up))).simplify(STRAY)


@dataclass(frozen=True, eq=False)
class _Cells:
    """What is solid in cells: 0 or 1, uint8 (h, w), with an empty rim; mm of a cell."""

    solid: Plate
    across: float
    up: float

    @property
    def side(self) -> float:
        return (self.across + self.up) / 2

    @property
    def room(self) -> int:
        """Cells that it may grow by without taking more memory than it should."""
        high, wide = (int(side) for side in self.solid.shape)
        # By x it has (h + 2 x) (w + 2 x) cells.
        between = math.sqrt((high - wide) ** 2 / 4 + GROWN) - (high + wide) / 2
        return max(0, math.floor(between / 2))

    def grown(self, by: int) -> _Cells:
        """With what lies within so many cells of solid ones."""
        if by == 0:
            return self
        wider = np.pad(self.solid, by + 1)
        far = cv2.distanceTransform(1 - wider, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        # From middle to middle: along the axes a cell more is a whole one, aslant about a half.
        return replace(self, solid=np.asarray(far <= by + 0.25).astype(np.uint8))

    def filled(self) -> _Cells:
        """Without holes."""
        lines, _ = cv2.findContours(self.solid, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        whole = cv2.drawContours(self.solid.copy(), lines, -1, (1,), cv2.FILLED)
        return replace(self, solid=np.asarray(whole, np.uint8))


def _within(cells: _Cells, far: float) -> BaseGeometry:
    """What lies within mm of solid cells.

    Most of the way is grown in cells, where a thousand specks cost no more than one.
    """
    steps = min(max(0, math.floor((far - NEAR) / cells.side)), cells.room)
    grown = cells.grown(steps)
    # What cells leave of steps costs far more later than it tells.
    return unary_union(_areas(grown)).buffer(far - steps * cells.side).simplify(STRAY / 3)


def _around(cells: _Cells, beyond: float, round_: float) -> BaseGeometry:
    """A shape, grown; what is narrower than the round is filled, outer corners stay."""
    return _within(cells, beyond + round_).buffer(-round_)


def _bridged(cells: _Cells, beyond: float, found: BaseGeometry, far: float) -> BaseGeometry:
    """Closed with the least round that leaves one part, to a fifth of it."""
    low, high = ROUND, ROUND
    while len(_parts(found)) > 1 and high < far:
        low, high = high, high * 1.5
        found = _around(cells, beyond, high)
    if len(_parts(found)) > 1:
        return _within(cells, 0.0).convex_hull.buffer(beyond)
    closer = _around(cells, beyond, math.sqrt(low * high))
    return closer if len(_parts(closer)) == 1 else found


def _cover(art: Artwork) -> Plate:
    if art.has_alpha:
        return np.ascontiguousarray(art.seen[..., -1])
    return np.full(art.seen.shape[:2], 255, np.uint8)


def _solid(plate: Plate, least: int, wide: float, high: float) -> _Cells:
    """Cells of this coverage."""
    cell = max(CELL, max(wide, high) / MOST)
    # Never finer than the artwork's own pixels.
    size = [
        max(1, min(pixels, round(side / cell)))
        for side, pixels in zip((wide, high), plate.shape[::-1], strict=True)
    ]
    cells = np.asarray(cv2.resize(plate, size, interpolation=cv2.INTER_AREA), np.uint8)
    solid = np.pad((cells >= least).astype(np.uint8), 1)
    return _Cells(solid, wide / size[0], high / size[1])


def _areas(cells: _Cells) -> list[BaseGeometry]:
    """What is solid, part by part, in mm around the plate's middle, y up."""
    return [
        outer.difference(unary_union(holes)) if holes else outer
        for outer, holes in _outlines(cells)
    ]


def _outlines(cells: _Cells) -> list[tuple[Polygon, list[Polygon]]]:
    """What is solid, filled, and the holes in it, in mm around the plate's middle, y up."""
    lines, family = cv2.findContours(cells.solid, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_SIMPLE)
    holes: dict[int, list[int]] = {}
    for number in range(len(lines)):
        holes.setdefault(int(family[0][number][3]), []).append(number)
    middle = (np.array(cells.solid.shape[::-1]) - 1) / 2

    def polygon(line: npt.NDArray[np.int32], grow: float) -> Polygon:
        # Lines run through the middles of the outermost cells, half a cell inside the edge.
        points = (line[:, 0, :] - middle) * (cells.across, -cells.up)
        ring = Polygon(points if len(points) > 2 else np.repeat(points, 3, axis=0))
        grown = ring.buffer(0 if ring.is_valid else 1e-6).buffer(grow, join_style="mitre")
        return max(_parts(grown), key=lambda part: part.area, default=Polygon())

    half = cells.side / 2
    return [
        (
            polygon(np.asarray(line), half),
            [polygon(np.asarray(lines[hole]), -half) for hole in holes.get(number, ())],
        )
        for number, line in enumerate(lines)
        if family[0][number][3] < 0
    ]


def _middles(cells: _Cells) -> BaseGeometry:
    """The middles of drawn lines; what is drawn as an area is cut along its edge.

    Of a closed line of even width, what lies between its outer and its inner edge is the width
    times the mean of both lengths.
    """
    found = []
    for outer, holes in _outlines(cells):
        inner = max(holes, key=lambda hole: hole.area, default=Polygon())
        # A line encloses most of what it is drawn around; other holes are those of an area.
        if inner.area > 0.5 * outer.area:
            width = (outer.area - inner.area) / ((outer.length + inner.length) / 2)
            found.append(outer.buffer(-width / 2, join_style="mitre"))
        else:
            found.append(outer)
    return unary_union(found)


def _parts(shape: BaseGeometry) -> list[Polygon]:
    if isinstance(shape, MultiPolygon):
        return [part for part in shape.geoms if not part.is_empty]
    return [shape] if isinstance(shape, Polygon) and not shape.is_empty else []


def _line(part: Polygon) -> CutLine:
    return np.array(Polygon(part.exterior).simplify(STRAY).exterior.coords, np.float64)[:-1]


def _plainer(line: CutLine, stray: float) -> CutLine:
    """A closed line with fewer corners; its first one stays, without which it strays further."""
    closed = LineString([*line, line[0]])
    return np.array(closed.simplify(stray).coords, np.float64)[:-1]
