"""What happens at the piece's edge: bleed that is not reached, artwork that is cut off."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import lru_cache

import cv2
import numpy as np
import numpy.typing as npt
import shapely
from shapely import Polygon, affinity, contains_xy
from shapely.geometry import box

from farbe.art.artwork import Artwork
from farbe.distinct import distinct
from farbe.kept import Kept, once
from farbe.layout.outline import outline, rings
from farbe.layout.placing import ArtworkBox, artwork_box
from farbe.model.piece import RoundBody, Shape
from farbe.model.placing import Fit
from farbe.optics.shake import Edge, telling, telling_places
from farbe.separate.choke import Plate
from farbe.separate.grid import pixel_side
from farbe.survey.cells import Cells, cell_size, cells_at
from farbe.survey.subject import THERE, Strip, Subject, plane
from farbe.survey.survey import Mark, Matter, Spot

Places = npt.NDArray[np.float64]
Samples = npt.NDArray[np.uint16]
#: Share of the outline along which artwork that goes on beyond is a ground, and meant to be cut.
GROUND = 0.9
#: Artwork that reaches less than so many mm beyond what is printed is not cut.
SLIGHT = 0.5
#: Standard deviation in pixels of the blur from which directions of edges are told.
SMOOTHED = 3.0
#: Samples along a side of the artwork by which the part is measured that is cut off.
SAMPLES = 600
#: Bytes that are mapped at once.
PAGE = 4096
_CUT: Kept[object, tuple[Places, float] | None] = Kept(16)


@dataclass(frozen=True, eq=False)
class EdgeProbe:
    """Places along the piece's outline, and whether artwork is there; filled strip by strip.

    ``inner`` lies as far in as the print may be off, ``edge`` just within the outline, ``outer``
    just within the bleed.
    """

    of: Subject
    found: dict[str, npt.NDArray[np.uint8]] = field(default_factory=dict)

    @once
    def step(self) -> float:
        """Mm from one place to the next."""
        return 1.5 * pixel_side(self.of.grid)

    @property
    def lines(self) -> tuple[Places, Places]:
        """Places on the outline in mm, (n, 2), and the directions out of the piece."""
        return _along(self.of.job.piece.shape, self.step)

    @once
    def depths(self) -> dict[str, float]:
        """How far beyond the outline each of the three places is, in mm."""
        pixel = pixel_side(self.of.grid)
        # Off by another pixel and a half, where nothing is covered in part.
        return {"inner": -max(self.of.off, 3 * pixel), "edge": -1.5 * pixel,
                "outer": self.of.job.bleed - 1.5 * pixel}  # fmt: skip

    @once
    def pixels(self) -> dict[str, npt.NDArray[np.int64]]:
        """Rows and columns of the places, (n, 2)."""
        places, outward = self.lines
        to = self.of.canvas.pixels
        return {
            name: np.floor(to(places + depth * outward)[:, ::-1]).astype(np.int64)
            for name, depth in self.depths.items()
        }

    def look(self, strip: Strip) -> None:
        """Note where artwork is, for the places in a strip's own rows.

        Parameters
        ----------
        strip : rows of a print
        """
        for name, at in self.pixels.items():
            known = self.found.setdefault(name, np.zeros(len(at), np.uint8))
            rows, columns = at[:, 0], at[:, 1].clip(0, strip.shape.shape[1] - 1)
            here = (rows >= strip.start) & (rows < strip.stop)
            known[here] = strip.shape[rows[here] - strip.rows[0], columns[here]]

    @property
    def on_edge(self) -> float:
        """Share of the outline that artwork lies on; after all strips were looked at."""
        found = self.found.get("edge")
        return float((found >= THERE).mean()) if found is not None and len(found) else 0.0

    def cells(self) -> Iterator[Cells]:
        """Where artwork stops short; after all strips were looked at."""
        if not self.of.edged:
            return
        inner, edge, outer = (self.found[name] >= THERE for name in ("inner", "edge", "outer"))
        if self.of.job.bleed > 3 * pixel_side(self.of.grid):
            yield from self._short(Matter.SHORT_OF_BLEED, edge & ~outer)
        yield from self._short(Matter.SHORT_OF_EDGE, inner & ~edge)

    def _short(self, matter: Matter, there: npt.NDArray[np.bool_]) -> Iterator[Cells]:
        # A corner of the artwork alone is no edge.
        if there.sum() * self.step < 1.0:
            return
        rows, columns = self.pixels["edge"][there].T
        length = float(there.sum()) * self.step
        size = cell_size(self.of.grid)
        yield cells_at(matter, "", rows, columns, size, np.full(len(rows), length))


@lru_cache(maxsize=8)
def _along(shape: Shape, step: float) -> tuple[Places, Places]:
    """What :attr:`EdgeProbe.lines` are, once for all prints of one shape."""
    places, outward = [], []
    for ring in rings(outline(shape)):
        ends = np.vstack([ring, ring[:1]])
        sides = np.diff(ends, axis=0)
        length = np.hypot(*sides.T)
        for start, side, far in zip(ends[:-1], sides, length, strict=True):
            count = math.floor(far / step)
            if count:
                at = (np.arange(count) + 0.5) / count
                places.append(start + at[:, None] * side)
                out = np.array([side[1], -side[0]]) / far
                outward.append(np.repeat(out[None], count, axis=0))
    if not places:
        # Curves of sides that are shorter than a pixel: a place for each corner.
        ring = np.concatenate(list(rings(outline(shape))))
        side = np.roll(ring, -1, axis=0) - np.roll(ring, 1, axis=0)
        far = np.maximum(np.hypot(*side.T), 1e-9)
        return ring, np.column_stack([side[:, 1], -side[:, 0]]) / far[:, None]
    return np.concatenate(places), np.concatenate(outward)


def edge_points(strip: Strip) -> npt.NDArray[np.float32]:
    """Places on the artwork's edge that tell of all of it, float32 (n, 4), as Survey has them.

    Parameters
    ----------
    strip : rows of a print
    """
    there = strip.there
    square = np.ones((3, 3), np.uint8)
    inner = cv2.erode(there, square, borderType=cv2.BORDER_CONSTANT, borderValue=(0,))
    found = cv2.findNonZero(strip.own(plane(cv2.subtract(there, inner))))
    if found is None:
        return np.zeros((0, 4), np.float32)
    columns, rows = np.asarray(found).reshape(-1, 2).T.astype(np.int64)
    rows += strip.halo
    across, down = _slopes(there, rows, columns)
    length = np.hypot(across, down)
    known = length > 0
    out = -np.column_stack([across, down])[known] / length[known, None]
    at = np.column_stack([columns + 0.5, rows + 0.5])[known] + out / 2
    # What is rounded there at a corner is no direction of its own.
    straight = _runs(there, at, out, 2) & _runs(there, at, out, -2)
    if straight.any():
        at, out = at[straight], out[straight]
    at, out = _to_their_ends(there, *_few(strip, at, out))
    told = telling(_in_mm(strip, at, out))
    return np.hstack([told.places, told.outward]).astype(np.float32)


def _slopes(
    there: Plate, rows: npt.NDArray[np.int64], columns: npt.NDArray[np.int64]
) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """How a plate rises across and down at places on its hard edges, at least one; (n,) each.

    Directions of hard edges are known from some pixels around. Only what is near the places is
    looked at.
    """
    across, down = np.zeros(len(rows)), np.zeros(len(rows))
    used = distinct(columns)
    around = math.ceil(4 * SMOOTHED)
    parts = np.split(used, np.flatnonzero(np.diff(used) > 2 * around) + 1)
    for part in parts:
        first, last = int(part[0]), int(part[-1])
        left = max(0, first - around)
        own = (columns >= first) & (columns <= last)
        here = rows[own]
        top = max(0, int(here.min()) - around)
        near = np.ascontiguousarray(
            there[top : int(here.max()) + around + 1, left : last + around + 1]
        )
        soft = cv2.GaussianBlur(near, (0, 0), SMOOTHED, borderType=cv2.BORDER_CONSTANT)
        at = here - top, columns[own] - left
        across[own] = np.asarray(cv2.Sobel(soft, cv2.CV_16S, 1, 0))[at]
        down[own] = np.asarray(cv2.Sobel(soft, cv2.CV_16S, 0, 1))[at]
    return across, down


def _in_mm(strip: Strip, at: Places, out: Places) -> Edge:
    """Places in pixels of a strip, with directions of lines at right angles to them, in mm."""
    grid, to = strip.of.grid, strip.of.canvas.millimetres
    corner = np.array([0.0, strip.rows[0]])
    places = to(at + corner)
    # A line's direction is turned by uneven pixels as its points are, its normal the other way.
    outward = to(at + corner + out * (grid.per_mm_x**2, grid.per_mm_y**2)) - places
    return Edge(places, outward / np.maximum(np.hypot(*outward.T), 1e-12)[:, None])


def _few(strip: Strip, at: Places, out: Places) -> tuple[Places, Places]:
    """Those of the places that tell of all, as they are on the strip."""
    told = telling_places(_in_mm(strip, at, out))
    return at[told], out[told]


def _runs(there: Plate, at: Places, out: Places, step: int) -> npt.NDArray[np.bool_]:
    """Whether the edge runs straight on from places to ``step`` pixels beside them."""
    beside = at + step * np.column_stack([-out[:, 1], out[:, 0]])
    return _covers(there, beside - 0.8 * out) & ~_covers(there, beside + 0.8 * out)


def _covers(there: Plate, at: Places) -> npt.NDArray[np.bool_]:
    columns, rows = np.floor(at.T).astype(int)
    inside = (rows >= 0) & (rows < there.shape[0]) & (columns >= 0) & (columns < there.shape[1])
    found = np.zeros(len(at), bool)
    found[inside] = there[rows[inside], columns[inside]] >= THERE
    return found


def _to_their_ends(there: Plate, at: Places, out: Places) -> tuple[Places, Places]:
    """The places, and those to which the edge runs straight on from them on either side."""
    along = np.column_stack([-out[:, 1], out[:, 0]])
    places = [at]
    steps = np.arange(1, round(4.7 * SMOOTHED) + 1)
    # All steps of all places at once: rows of steps, one column for each place.
    outward = np.tile(out, (len(steps), 1))
    for side in (1, -1):
        beside = (at + (side * steps)[:, None, None] * along).reshape(-1, 2)
        runs = _covers(there, beside - 0.8 * outward) & ~_covers(there, beside + 0.8 * outward)
        on = np.logical_and.accumulate(runs.reshape(len(steps), len(at)), axis=0)
        far, going = on.sum(axis=0).astype(np.float64), on[-1]
        # Where no corner is near, the edge is looked at in its other places; curves go on.
        past = at + (side * (far + 3.0))[:, None] * along
        far[going | _covers(there, past - 2.0 * out)] = 0.0
        places.append(at + (side * far)[:, None] * along)
    return np.concatenate(places), np.tile(out, (3, 1))


def _on_artwork(places: Places, lies: ArtworkBox) -> Places:
    """Places in mm around the piece's middle as shares of the artwork's size, from its corner."""
    turn = math.radians(lies.rotation)
    x, y = (places - (lies.x, lies.y)).T
    across, up = x * math.cos(turn) + y * math.sin(turn), y * math.cos(turn) - x * math.sin(turn)
    across = -across if lies.mirror else across
    return np.column_stack([across / lies.width + 0.5, 0.5 - up / lies.height])


def _off_artwork(shares: Places, lies: ArtworkBox) -> Places:
    """The other way: shares of the artwork's size as places in mm around the piece's middle."""
    turn = math.radians(lies.rotation)
    across = (shares[:, 0] - 0.5) * lies.width * (-1 if lies.mirror else 1)
    up = (0.5 - shares[:, 1]) * lies.height
    return np.column_stack([
        across * math.cos(turn) - up * math.sin(turn) + lies.x,
        across * math.sin(turn) + up * math.cos(turn) + lies.y,
    ])  # fmt: skip


def cut_off(of: Subject) -> Mark | None:
    """Artwork that reaches beyond what may be printed on; None where it is meant, or not so.

    Artwork that fills the piece, and a ground that goes on nearly all around it, are meant to be
    cut.

    Parameters
    ----------
    of : the print
    """
    job = of.job
    lies = artwork_box(job)
    art = of.separation.placed.artwork
    if lies is None or isinstance(job.piece.shape, RoundBody) or job.placing.fit is Fit.FILL:
        return None
    room = _room(job.piece.shape, -job.placing.margin if job.placing.margin else job.bleed)
    sheet = box(-lies.width / 2, -lies.height / 2, lies.width / 2, lies.height / 2)
    sheet = affinity.translate(affinity.rotate(sheet, lies.rotation, origin=(0, 0)), lies.x, lies.y)
    over = sheet.difference(room)
    if over.is_empty or room.is_empty or over.area < 0.01:
        return None
    # It is the same for all prints that differ in their words alone.
    how = lies.x, lies.y, lies.width, lies.height, lies.rotation, lies.mirror
    key = (job.artwork, how, job.piece.shape, job.placing.margin, job.bleed, art.width, art.height)
    seen = _CUT.get(key, lambda: _cut_away(of, lies, room))
    if seen is None:
        return None
    places, area = seen
    far = float(max(room.distance(_point(place)) for place in _outermost(places)))
    if far < SLIGHT or art.width == 0:
        return None
    # Along each axis by itself, which is much quicker.
    x0, x1, y0, y1 = (end(places[:, axis]) for axis in (0, 1) for end in (np.min, np.max))
    spot = Spot(
        float(x0),
        float(y0),
        float(x1 - x0),
        float(y1 - y0),
        area,
        far,
        *(float(v) for v in places[len(places) // 2]),
    )
    return Mark(Matter.CUT_OFF, "", area, far, 1, (spot,))


@lru_cache(maxsize=8)
def _room(shape: Shape, grow: float) -> Polygon:
    """What may be printed on; one and the same for all prints of one shape."""
    return outline(shape, grow=grow)


def _cut_away(of: Subject, lies: ArtworkBox, room: Polygon) -> tuple[Places, float] | None:
    """What :func:`_covered_beyond` finds, unless it is a ground that goes on all around."""
    seen = _covered_beyond(of, lies, room)
    return None if seen is None or _goes_on(of, lies, room) >= GROUND else seen


def _point(place: Places) -> Polygon:
    x, y = float(place[0]), float(place[1])
    return box(x, y, x, y)


def _outermost(places: Places) -> Places:
    """The places that lie farthest out in each of eight directions."""
    ways = np.array([(math.cos(a), math.sin(a)) for a in np.linspace(0, 2 * math.pi, 8, False)])
    return np.asarray(places[np.argmax(ways @ places.T, axis=1)])


def _alpha_at(of: Subject, shares: Places) -> npt.NDArray[np.bool_]:
    """Whether the artwork covers places, given as shares of its size; nothing beyond it."""
    art = of.separation.placed.artwork
    inside = np.asarray(((shares >= 0) & (shares < 1)).all(axis=1), bool)
    found = inside.copy()
    if art.has_alpha and art.stream is None:
        found[inside] = _covers_at(art, *_pixels(shares[inside], art.width, art.height))
    return found


def _covers_at(
    art: Artwork, rows: npt.NDArray[np.int64], columns: npt.NDArray[np.int64]
) -> npt.NDArray[np.bool_]:
    if art.looked_at is not None:
        # Each place is on a page of memory of its own, at the most.
        art.looked_at(len(rows) * PAGE)
    return np.asarray(art.pixels[rows, columns, -1] >= THERE)


def _pixels(
    shares: Places, width: int, height: int
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """Rows and columns of an artwork at shares of its size."""
    return (shares[:, 1] * height).astype(np.int64), (shares[:, 0] * width).astype(np.int64)


def _covered_beyond(of: Subject, lies: ArtworkBox, room: Polygon) -> tuple[Places, float] | None:
    """Places that the artwork covers beyond the room, and their area in mm²."""
    art = of.separation.placed.artwork
    if not art.has_alpha or art.stream is not None:
        return _all_beyond(room, lies)
    covers = _covers_at(art, *_pixels_beyond(room, lies, art.width, art.height))
    rows, columns = _beyond(room, lies)
    return _told(_shares(rows[covers], columns[covers]), lies)


def _told(shares: Places, lies: ArtworkBox) -> tuple[Places, float] | None:
    if not len(shares):
        return None
    return _off_artwork(shares, lies), len(shares) * lies.width * lies.height / SAMPLES**2


@lru_cache(maxsize=4)
def _all_beyond(room: Polygon, lies: ArtworkBox) -> tuple[Places, float] | None:
    """The same for artworks that cover all of their size."""
    return _told(_shares(*_beyond(room, lies)), lies)


@lru_cache(maxsize=4)
def _pixels_beyond(
    room: Polygon, lies: ArtworkBox, width: int, height: int
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """The samples of :func:`_beyond` in pixels of artworks of one size."""
    return _pixels(_shares(*_beyond(room, lies)), width, height)


def _shares(rows: Samples, columns: Samples) -> Places:
    """Samples as shares of the artwork's size."""
    return (np.column_stack([columns, rows]) + 0.5) / SAMPLES


@lru_cache(maxsize=24)
def _beyond(room: Polygon, lies: ArtworkBox) -> tuple[Samples, Samples]:
    """Rows and columns of the samples of the artwork that lie beyond the room.

    They are the same for all artworks of one size that are placed alike.
    """
    # To the sixteenth part of a sample, counted from the first one's middle.
    corners = [
        np.round((_on_artwork(np.asarray(ring.coords), lies) * SAMPLES - 0.5) * 16)
        for ring in (room.exterior, *room.interiors)
    ]
    drawn = np.zeros((SAMPLES, SAMPLES), np.uint8)
    drawable = max(float(np.abs(ring).max()) for ring in corners) < 2**24
    if drawable:
        cv2.fillPoly(drawn, [ring.astype(np.int32) for ring in corners], (255,), shift=4)
    # Only those near the room's edge are asked one by one.
    square = np.ones((5, 5), np.uint8)
    near = plane(cv2.subtract(cv2.dilate(drawn, square), cv2.erode(drawn, square)))
    rows, columns = np.nonzero(near) if drawable else np.nonzero(drawn == 0)
    places = _off_artwork((np.column_stack([columns, rows]) + 0.5) / SAMPLES, lies)
    shapely.prepare(room)
    drawn[rows, columns] = contains_xy(room, places[:, 0], places[:, 1])
    rows, columns = np.nonzero(drawn == 0)
    return rows.astype(np.uint16), columns.astype(np.uint16)


def _goes_on(of: Subject, lies: ArtworkBox, room: Polygon) -> float:
    """Share of the room's outline on which artwork lies."""
    line = np.asarray(room.exterior.coords)
    along = np.append(0.0, np.cumsum(np.hypot(*np.diff(line, axis=0).T)))
    count = max(len(line), min(4000, round(along[-1] / 0.2)))
    at = np.arange(count) * (along[-1] / count)
    places = np.column_stack([np.interp(at, along, line[:, axis]) for axis in (0, 1)])
    middle = np.array([room.centroid.x, room.centroid.y])
    # A hair further in, as it may end where the room does.
    return float(_alpha_at(of, _on_artwork(middle + (places - middle) * 0.998, lies)).mean())
