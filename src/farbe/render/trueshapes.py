"""What artworks on film cover, as outlines where they lie."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely import affinity, box, get_num_coordinates
from shapely.geometry.base import BaseGeometry
from shapely.strtree import STRtree

from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.model.artwork import ArtworkFile
from farbe.plan.order import mirrored
from farbe.render.cutlines import area_of_cells, covered_area
from farbe.render.footprints import footprint_of
from farbe.render.sources import Sources


@dataclass(frozen=True, eq=False)
class TrueShape:
    """What an artwork covers, in mm around its middle, y up, and by how much it may be less.

    It is traced in cells, of which each counts as covered if any of it is: ``cell`` is a side of
    one in mm, nothing where the shape is exact.
    """

    area: BaseGeometry
    cell: float


@dataclass(frozen=True, eq=False)
class LyingShape:
    """A true shape where it lies on the film, by the number of its place."""

    number: int
    area: BaseGeometry
    cell: float


#: Shapes of the artworks that were asked for last: laying and checking ask again and again.
_SHAPES: Kept[ArtworkFile, TrueShape] = Kept(
    5000, most=32 << 20, weigh=lambda shape: 16 * int(get_num_coordinates(shape.area))
)
#: A number, an artwork, how it is turned, and where it lies.
_Place = tuple[int, ArtworkFile, int, float, float]
#: What lay on the films that were asked for last.
_LYING: Kept[tuple[float, tuple[_Place, ...]], tuple[LyingShape, ...]] = Kept(4)


def true_shape(job: Faced, file: ArtworkFile, sources: Sources) -> TrueShape:
    """What an artwork covers, not mirrored; a picture that lets nothing through is its rectangle.

    Parameters
    ----------
    job, file : a job, and a file of it
    sources : pixels, fonts and profile

    Raises
    ------
    BadInput
        If the artwork's file cannot be read.
    """
    # An artwork is known by what is in it, so this is the same wherever it comes from.
    return _SHAPES.get(file.plain, lambda: _traced(job, file, sources))


def _traced(job: Faced, file: ArtworkFile, sources: Sources) -> TrueShape:
    art = sources.artwork(file, job)
    wide, high = file.cropped
    if not art.has_alpha:
        return TrueShape(box(-wide / 2, -high / 2, wide / 2, high / 2), 0.0)
    if art.seen.shape[1] < art.width:
        # Only a small copy of it is at hand; square millimetres are told from every row.
        cells = np.pad(footprint_of(job, file, sources).astype(np.uint8), 1)
        return TrueShape(area_of_cells(cells, 1.0, 1.0), 1.0)
    return TrueShape(*covered_area(art, wide, high))


def lying_shapes(job: Faced, sources: Sources) -> tuple[LyingShape, ...]:
    """What lies on a job's film, by true shapes, in the order of the places' numbers.

    Parameters
    ----------
    job : on film, as one of its faces has it
    sources : pixels, fonts and profile

    Returns
    -------
    In mm on the film, sheets one behind the other; what covers nothing is left out.

    Raises
    ------
    BadInput
        If an artwork's file cannot be read.
    """
    lying = tuple(
        (place.number, place.what.artwork, place.what.turned or 0, place.x, place.y)
        for place in laid(job)
        if place.what is not None and place.what.artwork is not None
    )
    flip = -1.0 if mirrored(job.reader) else 1.0
    # Several checks ask at each edit, most of which move nothing.
    return _LYING.get((flip, lying), lambda: _lying(job, flip, lying, sources))


def _lying(
    job: Faced, flip: float, lying: tuple[_Place, ...], sources: Sources
) -> tuple[LyingShape, ...]:
    turned: dict[tuple[str, int], TrueShape] = {}
    found = []
    for number, file, turn, x, y in lying:
        key = file.key, turn
        if key not in turned:
            shape = true_shape(job, file, sources)
            area = affinity.scale(shape.area, flip, 1.0, origin=(0, 0))
            turned[key] = TrueShape(affinity.rotate(area, turn, origin=(0, 0)), shape.cell)
        one = turned[key]
        if not one.area.is_empty:
            found.append(LyingShape(number, affinity.translate(one.area, x, y), one.cell))
    return tuple(found)


def nearer_than(shapes: Sequence[LyingShape], gap: float) -> list[tuple[float, int, int]]:
    """Pairs of shapes that are surely nearer to each other than a gap, the nearest first.

    Parameters
    ----------
    shapes : where they lie, mm
    gap : mm

    Returns
    -------
    For each pair the distance in mm that it has at the most, and both numbers, the smaller first.
    """
    areas = [one.area for one in shapes]
    if not areas:
        return []
    found = []
    first, second = STRtree(areas).query(areas, predicate="dwithin", distance=gap)
    for a, b in zip(first.tolist(), second.tolist(), strict=True):
        if a >= b:
            continue
        apart = shapes[a].area.distance(shapes[b].area) + shapes[a].cell + shapes[b].cell
        if apart < gap - 1e-6:
            found.append((apart, shapes[a].number, shapes[b].number))
    return sorted(found)
