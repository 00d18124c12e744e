"""What is looked for on a strip: a function for each matter."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import cv2
import numpy as np
import numpy.typing as npt

from farbe.model.base import rgb
from farbe.model.layer import Layer
from farbe.model.piece import Material, Reader
from farbe.model.printer import LayerKind
from farbe.model.source import FilePlate, OppositeShape, PlateNamed, Region, Surround, WholePiece
from farbe.model.treatment import Choke, Dots, Ease, Holes
from farbe.optics.view import BARE, PAPER_WHITE
from farbe.render.inklimits import ink_limits
from farbe.separate.choke import Plate
from farbe.separate.grid import disc, pixel_side
from farbe.separate.masks import any_within
from farbe.separate.spare import far_from
from farbe.separate.tones import FAR_LEVELS, difference_table
from farbe.survey.cells import Cells, cell_size, cells_of
from farbe.survey.strokes import strokes_reach, thin_strokes
from farbe.survey.subject import (
    COLOURED,
    HARDLY,
    THERE,
    Strip,
    Subject,
    plane,
    solid_from,
)  # fmt: skip
from farbe.survey.survey import Matter

Looking = Callable[[Strip], Iterator[Cells | None]]
#: Mm around colour within which ink that looks out is its rim; farther off it is an area.
RIM = 0.6
#: Levels by which rounding may pass a limit.
ROUNDING = 3
#: Coverage that is neither soft nor solid, and neither soft nor nothing.
SOFT = (26, 229)
#: Share of a strip under which its pixels are looked up one by one.
SPARSE = 0.3
#: Of what the artwork covers in a square of pixels, one in so many parts is fair.
FAIR, FAIR_SIDE = 4.0, 5
_HIDES = (LayerKind.WHITE, LayerKind.BLACKOUT, LayerKind.NAMED)
_RIMMED = (LayerKind.WHITE, LayerKind.BLACKOUT, LayerKind.VARNISH, LayerKind.NAMED)


def halo_of(of: Subject) -> int:
    """Rows around a strip that the looks need.

    Parameters
    ----------
    of : the print
    """
    rows = [of.allowance * of.grid.per_mm_y + 2, (RIM + of.register) * of.grid.per_mm_y + 3]
    if any(isinstance(layer.source, PlateNamed | FilePlate) for layer in of.layers):
        rows.append(3 * RIM * of.grid.per_mm_y)
    for layer in of.separation.layers:
        for ink in of.job.machine.inks_of(layer.kind, layer.ink):
            rows.append(strokes_reach(max(ink.stroke, ink.gap), of.grid)[1])
    return int(np.ceil(max(rows)))


def _marked(
    strip: Strip,
    matter: Matter,
    layer: str,
    mask: npt.NDArray[np.bool_] | Plate,
    worst: npt.NDArray[np.float32] | float = 0.0,
) -> Cells | None:
    """The cells of a mask with the rows around; ``worst`` likewise."""
    figures = strip.own(worst) if isinstance(worst, np.ndarray) else worst
    size = cell_size(strip.of.grid)
    return cells_of(matter, layer, strip.own(mask), (strip.start, 0), size, figures)


def _widths(mask: Plate, strip: Strip) -> npt.NDArray[np.float32]:
    """Twice the distance to the edge of a mask in mm: its width, along its middle."""
    return _distances(mask, strip) * np.float32(2.0)


def _distances(mask: Plate, strip: Strip) -> npt.NDArray[np.float32]:
    """Distance to the edge of a mask in mm, as far as the rows around a strip reach."""
    far = np.asarray(cv2.distanceTransform(mask, cv2.DIST_L2, 3), np.float32)
    return np.minimum(far, np.float32(strip.halo)) * np.float32(pixel_side(strip.of.grid))


def bare(strip: Strip) -> Iterator[Cells | None]:
    """White of the artwork, and colour, that have no white ink.

    Parameters
    ----------
    strip : rows of a print
    """
    of = strip.of
    if not of.white_matters:
        return
    layers = of.of_kind(LayerKind.WHITE)
    inked = _inked(strip)
    lost = plane(cv2.subtract(strip.there, inked))
    if not cv2.hasNonZero(strip.own(lost)):
        return
    if layers:
        # The choked rim of what has ink is not lost.
        lost = far_from(inked, lost, strip.around(of.allowance))
        if not cv2.hasNonZero(strip.own(lost)):
            return
    widths = _widths(lost, strip)
    white = plane(cv2.bitwise_and(lost, strip.white))
    took = _taken(strip, layers) if layers else None
    masks = [(Matter.WHITE_BARE, Matter.WHITE_CHOKED, white)]
    if layers and of.of_kind(LayerKind.COLOUR):
        masks.append((Matter.COLOUR_BARE, Matter.COLOUR_CHOKED, _coloured(strip, lost, white)))
    for plain, taken, mask in masks:
        choked = np.zeros_like(mask) if took is None else plane(cv2.bitwise_and(mask, took))
        yield _marked(strip, plain, "", plane(cv2.subtract(mask, choked)), widths)
        yield _marked(strip, taken, "", choked, widths)


def _inked(strip: Strip) -> Plate:
    """255 where there is white ink: much of it, or a fair part of what the artwork covers.

    Faint remnants of choked strokes are no ink; strokes that are finer than a pixel are faint
    themselves.
    """
    solid = solid_from(strip.white_ink, THERE)
    faint = plane(cv2.subtract(solid_from(strip.white_ink, BARE), solid))
    if not cv2.hasNonZero(faint):
        return solid
    around = (FAIR_SIDE, FAIR_SIDE)
    ink, drawn = cv2.blur(strip.white_ink, around), cv2.blur(strip.shape, around)
    # What is more than can be told is fair to any.
    fair = cv2.compare(cv2.convertScaleAbs(ink, alpha=FAIR), drawn, cv2.CMP_GE)
    return plane(cv2.bitwise_or(solid, cv2.bitwise_and(fair, faint)))


def _coloured(strip: Strip, lost: Plate, white: Plate) -> Plate:
    """Of what is lost, colour that is not dark where white is held back under darks."""
    ink = solid_from(strip.colour, COLOURED)
    found = plane(cv2.bitwise_and(cv2.subtract(lost, white), ink))
    eases = [t for layer in strip.of.of_kind(LayerKind.WHITE)
             for t in layer.active if isinstance(t, Ease)]  # fmt: skip
    if eases and found.any():
        light = strip.of.separation.lightness(*strip.rows)
        found[light < 2.55 * max(ease.light for ease in eases)] = 0
    return found


def _taken(strip: Strip, layers: tuple[Layer, ...]) -> Plate:
    """255 where the white layers would have ink but for their chokes."""
    result = np.zeros_like(strip.shape)
    for layer in layers:
        if any(isinstance(t, Choke) for t in layer.active):
            kept = tuple(t for t in layer.treatments if not isinstance(t, Choke))
            plain = strip.of.separation.of_layer(layer.replace(treatments=kept), *strip.rows)[0]
            np.maximum(result, plain, out=result)
    return solid_from(result, BARE)


def hidden(strip: Strip) -> Iterator[Cells | None]:
    """Colour that lies behind ink which hides it.

    Parameters
    ----------
    strip : rows of a print
    """
    before = tuple(layer for layer in strip.of.order[1] if layer.kind in _HIDES)
    if not before:
        return
    for layer in before:
        cover = strip.of_layer(layer)[0]
        hides = (cover >= THERE) & (strip.colour >= BARE)
        share = cover.astype(np.float32) * np.float32(100 / 255)
        yield _marked(strip, Matter.HIDDEN, layer.name, hides, share)


def _follows_artwork(layer: Layer) -> bool:
    """Whether a layer is to end where the artwork does."""
    free = (WholePiece, Surround, Region, OppositeShape)
    return not any(isinstance(source, free) for source in layer.sources)


def looks_out(strip: Strip) -> Iterator[Cells | None]:
    """Ink behind the colour that looks out from under it at half of the stated misregister.

    Parameters
    ----------
    strip : rows of a print
    """
    of = strip.of
    behind = [
        layer for layer in of.order[0]
        if layer.kind in _RIMMED and of.job.is_own(layer) and _follows_artwork(layer)
    ]  # fmt: skip
    ink: Plate | None = None
    for layer in behind:
        plate = strip.of_layer(layer)[0]
        solid = solid_from(plate, THERE)
        there = strip.there
        if any(isinstance(t, Dots) for t in layer.active):
            # Dots are solid where the artwork is but faint.
            there = solid_from(strip.shape, 1)
        out = plane(cv2.subtract(strip.grown(solid, of.register / 2), there))
        if isinstance(layer.source, PlateNamed | FilePlate) and cv2.hasNonZero(strip.own(out)):
            # What a plate covers broadly beyond the artwork is drawn so, and no rim.
            narrow = any_within(plane(cv2.bitwise_not(out)), disc(RIM, of.grid))
            wide = plane(cv2.bitwise_not(narrow))
            out = plane(cv2.subtract(out, strip.grown(wide, 1.5 * RIM)))
        if not cv2.hasNonZero(strip.own(out)):
            continue
        if ink is None:
            cover = solid_from(strip.colour, COLOURED)
            ink = strip.grown(np.asarray(cover, np.uint8), RIM + of.register / 2)
        rim = plane(cv2.bitwise_and(out, ink))
        # At the full misregister it looks out by the other half as well.
        reaches = _distances(plane(cv2.bitwise_not(strip.there)), strip)
        yield _marked(
            strip, Matter.LOOKS_OUT, layer.name, rim, reaches + np.float32(of.register / 2)
        )


def limits(strip: Strip) -> Iterator[Cells | None]:
    """Process ink over the job's limit, and the whole film over the printer's.

    Parameters
    ----------
    strip : rows of a print
    """
    job = strip.of.job
    # Each hit is cured before the next; what they add up to is the film's limit.
    for layer in strip.of.of_kind(LayerKind.COLOUR):
        process = [(plate, 1.0) for plate in strip.of_layer(layer)]
        over = _summed(process, ink_limits(job).total * 2.55 + ROUNDING * len(process))
        if over is not None:
            sums = over / np.float32(2.55)
            yield _marked(strip, Matter.OVER_TOTAL, "", over > 0, sums)
    films = []
    for layer in strip.of.separation.layers:
        inks = job.machine.inks_of(layer.kind, layer.ink)
        films += [(plate, job.machine.laid(ink) * layer.hits / 255.0)
                  for plate, ink in zip(strip.of_layer(layer), inks, strict=False)]  # fmt: skip
    thick = _summed(films, job.machine.most_film * 1.01)
    if thick is not None:
        yield _marked(strip, Matter.OVER_FILM, "", thick > 0, thick)


def _summed(parts: list[tuple[Plate, float]], limit: float) -> npt.NDArray[np.float32] | None:
    """Weighted sums where they are over a limit, 0 elsewhere; None if none is."""
    if sum(share * float(plate.max(initial=0)) for plate, share in parts) <= limit:
        return None
    total = np.zeros(parts[0][0].shape, np.float32)
    for plate, share in parts:
        total += plate * np.float32(share)
    return np.where(total > limit, total, np.float32(0.0)) if (total > limit).any() else None


def fine_detail(strip: Strip) -> Iterator[Cells | None]:
    """Strokes and gaps that are finer than the ink prints.

    Parameters
    ----------
    strip : rows of a print
    """
    of, printer = strip.of, strip.of.job.machine
    if not of.exact:
        return
    for layer in of.separation.layers:
        inks = printer.inks_of(layer.kind, layer.ink)
        broken = (Dots, Holes)
        if not inks or of.job.see_through or any(isinstance(t, broken) for t in layer.active):
            continue
        plates = strip.of_layer(layer)
        # Process inks make one picture; what is black alone has to hold by itself.
        planes = [strip.most((layer,)), plates[-1]] if layer.plates == 4 else plates
        for index, levels in enumerate(planes):
            yield from _finer(strip, Matter.STROKE, layer.name, levels, inks[-1].stroke)
            if index == 0:
                yield from _finer(strip, Matter.GAP, layer.name, 255 - levels, inks[-1].gap)


def _finer(
    strip: Strip, matter: Matter, layer: str, plane: Plate, least: float
) -> Iterator[Cells | None]:
    size = cell_size(strip.of.grid)
    for thin in thin_strokes(plane, least, strip.of.grid, around=strip.halo):
        corner = (strip.rows[0] + thin.top, thin.left)
        yield cells_of(matter, layer, thin.mask, corner, size, thin.widths)


def beyond(strip: Strip) -> Iterator[Cells | None]:
    """Ink where there is no artwork.

    Parameters
    ----------
    strip : rows of a print
    """
    outside = plane(cv2.bitwise_not(solid_from(strip.shape, 1)))
    for layer in strip.of.layers:
        if layer.kind is not LayerKind.COLOUR:
            ink = plane(cv2.bitwise_and(strip.of_layer(layer)[0], outside))
            if cv2.hasNonZero(strip.own(ink)):
                share = ink.astype(np.float32) * np.float32(100 / 255)
                yield _marked(strip, Matter.BEYOND, layer.name, ink, share)


def soft(strip: Strip) -> Iterator[Cells | None]:
    """Soft edges of a transfer under which white is thin too.

    Parameters
    ----------
    strip : rows of a print
    """
    if strip.of.job.reader is not Reader.TRANSFER or not strip.of.of_kind(LayerKind.WHITE):
        return
    faint = cv2.inRange(strip.shape, (SOFT[0],), (SOFT[1],))
    thin = cv2.inRange(strip.white_ink, (SOFT[0],), (SOFT[1],))
    # What is one pixel wide is the edge's own.
    square = np.ones((3, 3), np.uint8)
    broad = cv2.erode(cv2.bitwise_and(faint, thin), square)
    if not cv2.hasNonZero(broad):
        return
    found = plane(cv2.dilate(broad, square))
    if cv2.hasNonZero(strip.own(found)):
        yield _marked(strip, Matter.SOFT, "", found, _widths(found, strip))


def like_surface(strip: Strip) -> Iterator[Cells | None]:
    """Colour that is hardly told from the surface that it is printed on.

    Parameters
    ----------
    strip : rows of a print
    """
    surface = strip.of.job.piece.surface
    if surface.material is Material.CLEAR or not strip.of.of_kind(LayerKind.COLOUR):
        return
    found = strip.there
    if strip.raw.shape[2] == 3:
        # Nearly all artwork is told apart by its levels alone.
        low, high = strip.of.near_surface
        found = plane(cv2.bitwise_and(cv2.inRange(strip.raw, low, high), found))
    found = plane(cv2.subtract(found, strip.white))
    for cover, place, colour in strip.lettering():
        found[place][cover] = 255 if min(colour) < PAPER_WHITE else 0
    if not cv2.hasNonZero(strip.own(found)):
        return
    at = np.flatnonzero(found > 0)
    levels = _from_surface(strip, at)
    near = levels < HARDLY * FAR_LEVELS
    if near.any():
        alike = np.zeros(found.shape, bool)
        np.put(alike, at[near], True)
        far = np.zeros(found.shape, np.float32)
        np.put(far, at, levels.astype(np.float32) / np.float32(FAR_LEVELS))
        yield _marked(strip, Matter.LIKE_SURFACE, "", alike, far)


def _from_surface(strip: Strip, at: npt.NDArray[np.int64]) -> npt.NDArray[np.uint8]:
    """CIEDE2000 from the surface's colour in parts of ``FAR_LEVELS``, of pixels by their number."""
    separation = strip.of.separation
    table = difference_table(rgb(strip.of.job.piece.surface.colour))
    if separation.words or len(at) > SPARSE * strip.there.size:
        return np.asarray(table(separation.screen(*strip.rows)).ravel()[at])
    raw = strip.raw.reshape(-1, strip.raw.shape[2]).take(at, axis=0)
    return np.asarray(table(separation.on_screen(raw[None]))[0])


LOOKS: tuple[Looking, ...] = (
    bare, hidden, looks_out, limits, fine_detail, beyond, soft, like_surface,
)  # fmt: skip
