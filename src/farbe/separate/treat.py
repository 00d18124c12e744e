"""Treatments of plates in strips: each sees so far and no further, so that strips agree."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Any, TypeVar

import cv2
import numpy as np
import numpy.typing as npt

from farbe.kept import Kept
from farbe.model.source import Source
from farbe.model.treatment import (
    Choke,
    Curve,
    Dots,
    Ease,
    Feather,
    Grain,
    Harden,
    Holes,
    HoleShape,
    Limit,
    Pinholes,
    Shift,
    Specks,
    Spread,
    Treatment,
    TreatmentValue,
)
from farbe.registry import Methods
from farbe.separate.blocks import Block
from farbe.separate.choke import Plate, choke, reach, spread
from farbe.separate.former import made_anew, nearest
from farbe.separate.framed import frame_of, framed, unframed
from farbe.separate.grid import Grid
from farbe.separate.screen import round_thresholds
from farbe.separate.spare import rim, spare_reach, spared
from farbe.separate.strokes import ahead

#: Standard deviations of the blur that a feathered edge is made with, in its width.
FEATHER_SIGMAS = 2.0


@dataclass(frozen=True, eq=False)
class StripContext:
    """Where a strip lies and what else treatments may ask for.

    Attributes
    ----------
    grid : resolution
    size : (width, height) of the canvas in pixels
    top : canvas row of the strip's first row; may lie outside the canvas
    lightness : CIE L* × 2.55 of the artwork for rows of the canvas, uint8 (rows, width)
    inner_holes : rows of a plate that is solid where the source has holes inside it
    drawn : what a source covers on rows of the canvas, uint8 (rows, width)
    middle : of the piece, in pixels of the canvas
    spare : rows at either end of the strip that need not be right
    kept : what follows from the artwork alone is kept, for the next edit of the treatment
    lies : where the artwork lies, in rows and columns of the strip, also beyond it; None if that
        is not told by whole pixels
    """

    grid: Grid
    size: tuple[int, int]
    top: int
    lightness: Callable[[int, int], Plate]
    inner_holes: Callable[[int, int], Plate]
    drawn: Callable[[Source, int, int], Plate]
    middle: tuple[float, float]
    spare: int = 0
    kept: bool = False
    lies: Block | None = None


@dataclass(frozen=True)
class Treating:
    """How one kind of treatment is done.

    Attributes
    ----------
    done : a strip, the treatment and its ground, to the strip after it
    halo : rows above and below that it looks at
    kept_halo : the same in pictures, where the next edit, which is mostly a little larger, is to
        look no farther
    adds : it may put ink where there was less; what then lies beyond piece and bleed is taken
        away, and limits are kept, after all treatments
    """

    done: Callable[[Plate, Any, StripContext], Plate]
    halo: Callable[[Any, Grid], int]
    kept_halo: Callable[[Any, Grid], int]
    adds: bool


#: How each kind of treatment is done.
TREATING: Methods[Treating] = Methods("treating")
Done = TypeVar("Done", bound=Callable[..., Plate])


def _none(_: Any, __: Grid) -> int:
    """Of treatments that look at one pixel alone."""
    return 0


def treats(
    kind: type[TreatmentValue],
    *,
    adds: bool,
    halo: Callable[[Any, Grid], int] = _none,
    kept_halo: Callable[[Any, Grid], int] | None = None,
) -> Callable[[Done], Done]:
    """Enter how a kind of treatment is done; see :class:`Treating`. Used as a decorator.

    Parameters
    ----------
    kind : of treatment
    adds : whether it may put ink where there was less
    halo : rows above and below that it looks at, of the treatment and the resolution
    kept_halo : the same in pictures, if they are others

    Returns
    -------
    The decorator, which gives the function back as it is.
    """

    def enter(done: Done) -> Done:
        TREATING.enter(kind, Treating(done, halo, kept_halo or halo, adds))
        return done

    return enter


def halo(treatment: Treatment, grid: Grid, *, kept: bool = False) -> int:
    """Rows above and below that a treatment looks at.

    Parameters
    ----------
    treatment : any registered one
    grid : resolution
    kept : of a picture, from which the next edit takes what it can

    Returns
    -------
    Rows, 0 or more.

    Raises
    ------
    TypeError
        If the treatment is not entered.
    """
    how = TREATING.of(treatment)
    return (how.kept_halo if kept else how.halo)(treatment, grid)


def treated(plate: Plate, treatment: Treatment, ground: StripContext) -> Plate:
    """A strip after one treatment; right but for :func:`halo` rows at either end.

    Parameters
    ----------
    plate : uint8 (rows, width)
    treatment : any registered one
    ground : what else the strip knows: resolution, rows, artwork

    Returns
    -------
    uint8 (rows, width)

    Raises
    ------
    TypeError
        If the treatment is not entered.
    """
    return TREATING.of(treatment).done(plate, treatment, ground)


def adds(treatments: tuple[Treatment, ...]) -> bool:
    """Whether treatments may put ink where there was less.

    Parameters
    ----------
    treatments : in the order in which they act
    """
    return any(TREATING.of(treatment).adds for treatment in treatments)


#: CIE L* of each level of what tells lightness, float32 (256,).
LIGHTNESS = np.arange(256, dtype=np.float32) / np.float32(2.55)


def _levels(figures: npt.NDArray[Any]) -> Plate:
    """Figures from 0 to 255 as whole levels, halves to the even one."""
    if figures.dtype.kind == "f" and figures.ndim == 2:
        # The same as rounding, in one go.
        return np.asarray(cv2.convertScaleAbs(figures), np.uint8)
    return np.asarray(np.rint(figures), dtype=np.uint8)


def _solid(there: npt.NDArray[np.bool_]) -> Plate:
    """All that is there solid, the rest empty."""
    return there.view(np.uint8) * np.uint8(255)


def _choke_rows(treatment: Choke, grid: Grid) -> int:
    return _seen(treatment, grid)[1]


def _seen(treatment: Choke, grid: Grid) -> tuple[int, int]:
    """Columns and rows beyond which a choke sees nothing."""
    most = max(treatment.by, treatment.holes or 0.0)
    (x, y), (far_x, far_y) = reach(most, grid), spare_reach(most, treatment.least, grid)
    return max(x, far_x), max(y, far_y)


def _kept_choke_rows(treatment: Choke, grid: Grid) -> int:
    most = max(treatment.by, treatment.holes or 0.0)
    farther = spare_reach(ahead(most, grid), treatment.least, grid)[1]
    return max(_choke_rows(treatment, grid), farther)


def _for_all(plate: Plate) -> Plate:
    """The plate as nobody writes to it."""
    kept = plate.view()
    kept.setflags(write=False)
    return kept


#: Plates of pictures after a choke, which does not change while what is done to them later does, or
#: while the artwork moves.
_CHOKED: Kept[tuple[bytes, Choke, tuple[int, ...], tuple[int, int], Grid], tuple[Plate, Plate]] = (
    Kept(100, most=48 << 20, weigh=lambda both: 3 * both[0].nbytes)
)
#: Rows and columns of such a plate that are made anew together.
PART = 512


@treats(Choke, adds=False, halo=_choke_rows, kept_halo=_kept_choke_rows)
def _choked(plate: Plate, treatment: Choke, ground: StripContext) -> Plate:
    """The plate drawn back at its edges; strokes keep the width that they are to keep."""
    unwanted = ground.spare, ground.spare
    if not ground.kept or treatment.holes is not None:
        return _choked_strip(plate, treatment, ground, unwanted)
    frame = frame_of(plate, ground.lies, rim(treatment.least, ground.grid))
    if frame is None:
        return _kept_choked(plate, treatment, ground, unwanted)
    # Where the artwork ends before the strip does, all of it is wanted.
    above, below = frame.top > 0, frame.bottom < len(plate)
    unwanted = 0 if above else ground.spare, 0 if below else ground.spare
    made = _kept_choked(framed(plate, frame), treatment, ground, unwanted)
    return unframed(made, frame, plate.shape)


def _kept_choked(
    plate: Plate, treatment: Choke, ground: StripContext, unwanted: tuple[int, int]
) -> Plate:
    rest = treatment, plate.shape, unwanted, ground.grid

    def strip(some: Plate, own: Block) -> tuple[Plate]:
        return (_choked_strip(some, treatment, ground, (own.top, len(some) - own.bottom)),)

    def made() -> tuple[Plate, Plate]:
        like = nearest(_CHOKED, rest, plate, lambda one: one[0])
        wanted = Block(unwanted[0], len(plate) - unwanted[1], 0, plate.shape[1])
        former = None if like is None else (like[0], like[1:])
        (choked,) = made_anew(strip, plate, former, _seen(treatment, ground.grid), PART, wanted)
        return plate, _for_all(choked)

    return _CHOKED.get((plate.tobytes(), *rest), made)[1]


def _choked_strip(
    plate: Plate, treatment: Choke, ground: StripContext, unwanted: tuple[int, int]
) -> Plate:
    """A strip of which so many rows at its first and last end need not be right."""
    choked, most = _drawn_back(plate, treatment, ground), max(treatment.by, treatment.holes or 0.0)
    least, grid = treatment.least, ground.grid
    return spared(plate, choked, most, least, grid, unwanted=unwanted, kept=ground.kept)


def _drawn_back(plate: Plate, treatment: Choke, ground: StripContext) -> Plate:
    if treatment.holes is None or treatment.holes == treatment.by:
        return choke(plate, treatment.by, ground.grid)
    holes = ground.inner_holes(ground.top, ground.top + len(plate))
    # The outer edge with all holes filled, and the holes alone, each by its own distance.
    outer = choke(np.maximum(plate, holes), treatment.by, ground.grid)
    inner = choke(np.maximum(plate, 255 - holes), treatment.holes, ground.grid)
    return np.minimum(outer, inner)


@treats(Spread, adds=True, halo=lambda t, grid: reach(t.by, grid)[1])
def _spread(plate: Plate, treatment: Spread, ground: StripContext) -> Plate:
    return spread(plate, treatment.by, ground.grid)


def _speck_rows(treatment: Specks | Pinholes, grid: Grid) -> int:
    return math.ceil(treatment.size * grid.per_mm_y) + 2


@treats(Specks, adds=False, halo=_speck_rows)
def _cleaned(plate: Plate, treatment: Specks, ground: StripContext) -> Plate:
    return _without_specks(plate, treatment.size, ground.grid)


@treats(Pinholes, adds=True, halo=_speck_rows)
def _filled(plate: Plate, treatment: Pinholes, ground: StripContext) -> Plate:
    return 255 - _without_specks(255 - plate, treatment.size, ground.grid)


@treats(Harden, adds=True)
def _hardened(plate: Plate, treatment: Harden, ground: StripContext) -> Plate:
    return _solid(plate >= max(1.0, treatment.at * 2.55))


def _without_specks(plate: Plate, size: float, grid: Grid) -> Plate:
    """Islands whose box is larger than ``size`` mm along x or y stay.

    An island that reaches the strip's end is larger than the halo, or not wanted here.
    """
    there = (plate > 0).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(there, connectivity=8)
    wide, high = size * grid.per_mm_x + 1e-6, size * grid.per_mm_y + 1e-6
    keep = (stats[:, cv2.CC_STAT_WIDTH] > wide) | (stats[:, cv2.CC_STAT_HEIGHT] > high)
    top = stats[:, cv2.CC_STAT_TOP]
    keep |= (top == 0) | (top + stats[:, cv2.CC_STAT_HEIGHT] == len(plate))
    keep[0] = False
    if count == 1 or keep[1:].all():
        return plate
    return plate * keep.view(np.uint8)[np.asarray(labels)]


@treats(Curve, adds=True)
def _curved(plate: Plate, treatment: Curve, ground: StripContext) -> Plate:
    return np.asarray(cv2.LUT(plate, curve_table(treatment.points)), dtype=np.uint8)


@treats(Limit, adds=False)
def _limited(plate: Plate, treatment: Limit, ground: StripContext) -> Plate:
    return np.asarray(cv2.convertScaleAbs(plate, alpha=treatment.percent / 100.0), dtype=np.uint8)


@lru_cache(maxsize=32)
def curve_table(points: tuple[tuple[float, float], ...]) -> Plate:
    """A tone curve as 256 levels.

    Parameters
    ----------
    points : in percent, rising

    Returns
    -------
    uint8 (rows, width), 0 to 255
    """
    x, y = np.array(points).T * 2.55
    return _levels(np.interp(np.arange(256), x, y))


@lru_cache(maxsize=1)
def _noise() -> Plate:
    """A tile of blue noise, uint8 (128, 128): every level is scattered evenly."""
    data = (files("farbe") / "data" / "blue-noise.bin").read_bytes()
    return np.frombuffer(data, np.uint8).reshape(128, 128)


def _places(
    ground: StripContext, rows: int
) -> tuple[npt.NDArray[np.float32], npt.NDArray[np.float32]]:
    """Middles of the strip's pixels in mm from the piece's middle: x (1, width), y up (rows, 1)."""
    width, (middle_x, middle_y) = ground.size[0], ground.middle
    x = (np.arange(width, dtype=np.float32) + 0.5 - middle_x) / ground.grid.per_mm_x
    down = np.arange(ground.top, ground.top + rows, dtype=np.float32) + 0.5 - middle_y
    return x[None, :], -down[:, None] / ground.grid.per_mm_y


def _turned(
    x: npt.NDArray[np.float32], y: npt.NDArray[np.float32], degrees: float
) -> tuple[npt.NDArray[np.float32], npt.NDArray[np.float32]]:
    c, s = np.float32(math.cos(math.radians(degrees))), np.float32(math.sin(math.radians(degrees)))
    return x * c + y * s, y * c - x * s


@treats(Dots, adds=True)
def _dotted(plate: Plate, treatment: Dots, ground: StripContext) -> Plate:
    """Solid where coverage is above a threshold that runs through all levels in each cell."""
    x, y = _places(ground, len(plate))
    if treatment.grain is Grain.NOISE:
        columns = np.floor(x / treatment.dot).astype(np.int64) % 128
        lines = np.floor(y / treatment.dot).astype(np.int64) % 128
        threshold = _noise()[lines, columns]
    else:
        threshold = round_thresholds(x, y, treatment.per_cm / 10.0, treatment.angle)
    return _solid(plate > threshold)


@treats(Ease, adds=False)
def _eased(plate: Plate, treatment: Ease, ground: StripContext) -> Plate:
    share = np.clip((LIGHTNESS - treatment.dark) / (treatment.light - treatment.dark), 0.0, 1.0)
    if treatment.smooth:
        share = share * share * (3.0 - 2.0 * share)
    least = treatment.least / 100.0
    levels = ground.lightness(ground.top, ground.top + len(plate))
    return shared(plate, least + (1.0 - least) * share, levels)


def shared(plate: Plate, shares: npt.NDArray[np.float32], levels: Plate) -> Plate:
    """A share of each pixel's coverage, by its level of something else.

    Parameters
    ----------
    plate : coverage, uint8 (h, w)
    shares : 0 to 1 for each of 256 levels, float32 (256,)
    levels : uint8 (h, w)

    Returns
    -------
    uint8 (h, w)
    """
    table = np.rint(np.arange(256, dtype=np.uint8)[None, :] * shares[:, None]).astype(np.uint8)
    at = levels.astype(np.uint16)
    at <<= 8
    at |= plate
    return np.asarray(table.ravel().take(at), np.uint8)


@treats(Holes, adds=False, halo=lambda t, grid: 2 * reach(t.spare / 2, grid)[1])
def _holed(plate: Plate, treatment: Holes, ground: StripContext) -> Plate:
    return opened([plate], treatment, ground)[0]


def opened(plates: list[Plate], treatment: Holes, ground: StripContext) -> list[Plate]:
    """Strips with the same holes; without ``spare`` they need no rows around them.

    Parameters
    ----------
    plates : coverage, each uint8 (rows, width)
    treatment : pattern and sizes in mm
    ground : where the strips lie

    Returns
    -------
    Each uint8 (rows, width), 0 to 255.
    """
    rows = len(plates[0])
    left = np.asarray(cv2.bitwise_not(holes_cover(treatment, ground, rows)), np.uint8)
    whole = (
        None
        if treatment.solid is None
        else ground.drawn(treatment.solid, ground.top, ground.top + rows)
    )
    return [_with_holes(plate, left, treatment, ground, whole) for plate in plates]


def _with_holes(
    plate: Plate, left: Plate, treatment: Holes, ground: StripContext, whole: Plate | None
) -> Plate:
    """A strip of which so much is left, but for what is thin and what stays whole."""
    result = np.asarray(cv2.multiply(plate, left, scale=1.0 / 255.0), dtype=np.uint8)
    if treatment.spare:
        # What an opening takes away is thinner than its disc.
        half = treatment.spare / 2
        thick = spread(choke(plate, half, ground.grid), half, ground.grid)
        result = np.where(thick >= 128, result, plate)
    if whole is not None:
        result = np.maximum(result, np.minimum(plate, whole))
    return np.asarray(result, dtype=np.uint8)


def holes_cover(treatment: Holes, ground: StripContext, rows: int) -> Plate:
    """How much of each pixel is open, uint8 (rows, width).

    Parameters
    ----------
    treatment : pattern, size and spacing in mm
    ground : where the strip lies
    rows : of the strip

    Returns
    -------
    uint8 (rows, width), 255 where all is open.
    """
    u, v = _turned(*_places(ground, rows), treatment.angle)
    step = treatment.spacing
    if treatment.staggered:
        # Rows half a step apart sideways, closer together: six neighbours at one distance.
        line = _off_lattice(v, step * math.sqrt(3) / 2)
        line -= 2 * np.floor(line / 2)
        line *= np.float32(step / 2)
        u -= line
    else:
        _off_lattice(v, step)
    _off_lattice(u, step)
    match treatment.shape:
        case HoleShape.ROUND:
            away = np.asarray(cv2.magnitude(u, v), np.float32)
        case HoleShape.SQUARE:
            away = np.maximum(np.abs(u), np.abs(v))
        case HoleShape.HEXAGON:
            slant = np.abs(u) * np.float32(math.sqrt(3) / 2) + np.abs(v) / 2
            away = np.maximum(slant, np.abs(v))
    per_mm = math.sqrt(ground.grid.per_mm_x * ground.grid.per_mm_y)
    # All of a pixel from half a pixel inside on, nothing from half a pixel outside on.
    middle, by_mm = 255.0 * (treatment.size / 2 * per_mm + 0.5), -255.0 * per_mm
    levels = cv2.addWeighted(away, by_mm, away, 0.0, middle, dtype=cv2.CV_8U)
    return np.asarray(levels, np.uint8)


def _off_lattice(figures: npt.NDArray[np.float32], step: float) -> npt.NDArray[np.float32]:
    """Take the nearest multiple of a step from each figure; how many steps that is."""
    steps: npt.NDArray[np.float32] = np.rint(figures / np.float32(step))
    figures -= steps * np.float32(step)
    return steps


@treats(Shift, adds=True, halo=lambda t, grid: abs(round(t.y * grid.per_mm_y)))
def _moved(plate: Plate, treatment: Shift, ground: StripContext) -> Plate:
    grid = ground.grid
    return shifted(plate, round(treatment.x * grid.per_mm_x), -round(treatment.y * grid.per_mm_y))


def shifted(plate: Plate, right: int, down: int) -> Plate:
    """A strip moved by whole pixels; nothing comes in from outside.

    Parameters
    ----------
    plate : uint8 (rows, width)
    right, down : pixels, negative to the left and up

    Returns
    -------
    uint8 (rows, width)
    """
    moved = np.zeros_like(plate)
    rows, width = plate.shape
    if abs(right) >= width or abs(down) >= rows:
        return moved
    source = plate[max(0, -down) : rows - max(0, down), max(0, -right) : width - max(0, right)]
    moved[
        max(0, down) : max(0, down) + source.shape[0],
        max(0, right) : max(0, right) + source.shape[1],
    ] = source
    return moved


def _blur_reach(sigma: float) -> int:
    return math.ceil(3 * sigma) + 1 if sigma > 0 else 0


@treats(
    Feather, adds=False, halo=lambda t, grid: _blur_reach(t.by * grid.per_mm_y / FEATHER_SIGMAS)
)
def _feathered(plate: Plate, treatment: Feather, ground: StripContext) -> Plate:
    """Twice what a Gaussian blur leaves above a half: 0 at the edge, nearly all ``by`` mm in.

    At a straight edge the blur is the normal distribution Φ(d / σ), so the result is
    2 Φ(d / σ) − 1, 95 % at d = by = 2 σ.
    """
    by, grid = treatment.by, ground.grid
    if by <= 0:
        return plate
    sigma_x, sigma_y = (by * per_mm / FEATHER_SIGMAS for per_mm in (grid.per_mm_x, grid.per_mm_y))
    size = (2 * _blur_reach(sigma_x) - 1, 2 * _blur_reach(sigma_y) - 1)
    blurred = cv2.GaussianBlur(
        plate.astype(np.float32), size, sigma_x, sigmaY=sigma_y, borderType=cv2.BORDER_CONSTANT
    )
    faded = np.clip(2.0 * np.asarray(blurred, np.float32) - 255.0, 0.0, 255.0)
    return np.minimum(_levels(faded), plate)
