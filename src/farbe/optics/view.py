"""How a proof is looked at: from where, by which light, on which surface, before what."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from farbe.art.artwork import Pixels
from farbe.model.piece import Reader, Surface
from farbe.model.printer import LayerKind
from farbe.optics.anew import anew
from farbe.optics.films import Light
from farbe.optics.inks import InkSet
from farbe.optics.light import to_linear
from farbe.optics.look import Seen, opacity, seen
from farbe.render.glimpse import Glimpse
from farbe.said import Spoken
from farbe.separate.choke import Plate


class Behind(Spoken):
    """What is seen by day through a piece that lets light through."""

    WALL = "a grey wall"
    WHITE = "white paper"
    DARK = "a dark room"
    STREET = "a street in the sun"


_FLAT = {Behind.WALL: "#8f9394", Behind.WHITE: "#f6f5f1", Behind.DARK: "#15171a"}

#: House fronts of the street.
_FRONTS = ("#b9785c", "#cdb98a", "#8d9aa0", "#c7c2b4", "#7c8f6d")


@dataclass(frozen=True)
class View:
    """A way to look at a job's piece.

    Attributes
    ----------
    other_side : from the side that the job's reader does not see
    surface : tried in place of the job's own
    lit : from daylight, 0, to light from behind alone, 1
    exposure : of light from behind, in stops: one more is twice as bright
    """

    other_side: bool = False
    surface: Surface | None = None
    behind: Behind = Behind.WALL
    lit: float = 0.0
    exposure: float = 0.0

    def gain(self, seen: Seen) -> float:
        """The factor by which light from behind is raised.

        Parameters
        ----------
        seen : of a piece
        """
        return float(seen.gain * 2.0**self.exposure)


def opposite(reader: Reader) -> Reader:
    """The reader on the other side of the print; a transfer is read through its carrier.

    Parameters
    ----------
    reader : who reads the piece
    """
    return Reader.THROUGH if reader is Reader.FACE else Reader.FACE


def seen_as(part: Glimpse, view: View) -> Seen:
    """What is seen of a part of a piece; from the other side it is turned over sideways.

    Parameters
    ----------
    part : of a piece, with its plates
    view : who looks, and by which light
    """
    job, plates = part.job, part.plates or [np.zeros(part.artwork.shape[:2], np.uint8)]
    found = seen(
        part.layers if part.plates else (),
        plates,
        reader=opposite(job.reader) if view.other_side else job.reader,
        surface=view.surface or job.piece.surface,
        profile=part.profile,
        inks=InkSet.of(job.printer, job.condition, part.lit),
        behind=scene(view.behind, part, turned=view.other_side),
    )
    return found.turned() if view.other_side else found


def look_of(part: Glimpse, before: tuple[Glimpse, Pixels] | None = None) -> Pixels:
    """How a part of a piece looks to its reader by day, sRGB uint8 (h, w, 3).

    Parameters
    ----------
    part : of a piece, with its plates
    before : another with its look; what has the same plates there is not worked out again

    Returns
    -------
    uint8 (h, w, 3)
    """
    known, moved = None, (0, 0)
    if before is not None and _looked_at(part) == _looked_at(before[0]):
        known, (x, y) = (before[0].plates, before[1]), before[0].corner
        moved = part.corner[0] - x, part.corner[1] - y

    def shown(plates: Sequence[Plate]) -> Pixels:
        if plates is part.plates:
            return seen_as(part, View()).by(0.0)
        bare = np.zeros((*plates[0].shape, 4), np.uint8)
        return seen_as(replace(part, plates=list(plates), artwork=bare), View()).by(0.0)

    return anew(part.plates, known, shown, moved=moved)


def _looked_at(part: Glimpse) -> tuple[object, ...]:
    """What the look of a part follows from besides the levels of its plates."""
    job = part.job
    films = tuple(layer.model_copy(update={"treatments": ()}) for layer in part.layers)
    return (films, part.artwork.shape, job.piece.surface, job.reader, job.printer, job.condition,
            part.profile, part.lit)  # fmt: skip


def scene(behind: Behind, part: Glimpse, *, turned: bool = False) -> Light:
    """What lies behind a part of a piece, linear sRGB float32, (3,) or (h, w, 3).

    The street is a sky over house fronts over a pavement, drawn for the whole piece, so that
    parts of it fit.

    Parameters
    ----------
    behind : what is chosen to lie there
    part : of a piece, with its plates
    turned : seen from the other side
    """
    if behind is not Behind.STREET:
        return np.array(to_linear(_FLAT[behind]), np.float32)
    high, wide = part.artwork.shape[:2]
    shape = part.job.piece.shape
    x = part.box.left + (np.arange(wide) + 0.5) / part.grid.per_mm_x
    y = part.box.bottom + part.box.height - (np.arange(high) + 0.5) / part.grid.per_mm_y
    across = (x / shape.width + 0.5)[None, :, None]
    up = (y / shape.height + 0.5)[:, None, None]
    front = np.floor(across * 5)
    roof = 0.52 + 0.08 * np.sin(front * 2.1 + 1.0)
    sky, haze, pavement = (np.array(to_linear(c)) for c in ("#7fb2e2", "#dfeaf2", "#a8a49a"))
    walls = np.array([to_linear(colour) for colour in _FRONTS])
    light = haze + (sky - haze) * np.clip((up - 0.45) / 0.55, 0, 1)
    light = np.where(up < roof, walls[front.clip(0, 4).astype(int)[..., 0]], light)
    window = (np.abs((across * 15) % 1 - 0.5) < 0.25) & (np.abs((up * 9) % 1 - 0.5) < 0.3)
    light = np.where((up < roof - 0.03) & window, light * 0.25, light)
    light = np.where(up < 0.16, pavement, light)
    return np.asarray(light[:, ::-1] if turned else light, np.float32)


def hiding(part: Glimpse) -> Plate:
    """Contrast ratio of all layers, 0 to 255, (h, w).

    Parameters
    ----------
    part : of a piece

    Returns
    -------
    uint8 (rows, width), 0 to 255
    """
    if not part.plates:
        return np.zeros(part.artwork.shape[:2], np.uint8)
    found = opacity(
        part.layers, part.plates, part.profile, InkSet.of(part.job.printer, part.job.condition)
    )
    return np.asarray(np.rint(np.clip(found, 0, 1) * 255), dtype=np.uint8)


#: From this level on in every channel, artwork counts as white.
PAPER_WHITE = 250
#: Coverage of white ink below which a place counts as bare.
BARE = 64


@dataclass(frozen=True, eq=False)
class ArtworkWhite:
    """Where artwork is white: masks of 0 and 255, (h, w), and their areas in mm²."""

    inked: Plate
    bare: Plate
    inked_area: float
    bare_area: float


def artwork_white(part: Glimpse) -> ArtworkWhite:
    """White of the artwork with white ink under it, and without: there the surface shows.

    Parameters
    ----------
    part : of a piece, with its plates
    """
    white = (part.artwork[..., 3] >= 128) & (part.artwork[..., :3].min(axis=2) >= PAPER_WHITE)
    ink = part.of_kind(LayerKind.WHITE)
    has_ink = np.zeros(white.shape, bool) if ink is None else ink >= BARE
    pixel = 1.0 / (part.grid.per_mm_x * part.grid.per_mm_y)
    inked, bare = white & has_ink, white & ~has_ink
    return ArtworkWhite(
        inked.astype(np.uint8) * 255, bare.astype(np.uint8) * 255,
        float(inked.sum()) * pixel, float(bare.sum()) * pixel,
    )  # fmt: skip
