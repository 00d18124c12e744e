"""What inks and pieces do to light: each layer's film, and the piece's own."""

from __future__ import annotations

import io
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from PIL import Image, ImageCms

from farbe.art.profiles import applied, srgb_profile
from farbe.model.layer import Layer
from farbe.model.piece import Material, Surface
from farbe.model.printer import LayerKind, Printer
from farbe.optics.films import Bands, Film, FilmFigure, Light, each, hits, joined, thicker
from farbe.optics.levels import Leveled, StackPart, even
from farbe.optics.light import Patch, linear_table, to_linear
from farbe.separate.choke import Plate

#: Contrast ratio of one solid hit of white: reflectance over black by reflectance over white.
WHITE_CONTRAST = 0.72
#: One solid hit of white: it absorbs nothing, so over black it reflects its contrast ratio.
WHITE = Film.even(WHITE_CONTRAST, 1.0 - WHITE_CONTRAST)
#: One solid hit of blackout, and of varnish, whose gloss shows a little light of its own.
BLACKOUT = Film.even(0.015, 0.05)
VARNISH = Film.even(0.004, 0.994)
#: How much of what lies behind a solid hit of a named ink is hidden.
NAMED_HIDES = 0.85
#: How a named ink looks that the printer does not have.
GREY = "#808080"
_SOLID = {LayerKind.WHITE: WHITE, LayerKind.BLACKOUT: BLACKOUT, LayerKind.VARNISH: VARNISH}


@dataclass(frozen=True)
class InkSet:
    """What of a printer matters to how its inks look.

    Attributes
    ----------
    named : ``#rrggbb`` of named inks by name
    laydown : ink of a hit, as a share of what the films here are told for
    own_blackout : it has an ink for blackout; without one process black prints it
    """

    named: tuple[tuple[str, str], ...] = ()
    laydown: float = 1.0
    own_blackout: bool = True

    @classmethod
    def of(cls, printer: Printer) -> InkSet:
        """The inks of a printer in the mode that it is set to.

        Parameters
        ----------
        printer : as it is set
        """
        return cls(
            tuple((ink.name, ink.shown) for ink in printer.inks),
            printer.laydown / 100.0,
            any(ink.kind is LayerKind.BLACKOUT for ink in printer.inks),
        )


#: The inks as these films are told for.
USUAL = InkSet()


def white_film(count: int, laydown: float = 1.0) -> tuple[float, float]:
    """Reflectance and transmittance of so many solid hits of white.

    Parameters
    ----------
    count : of hits
    laydown : ink of a hit, as a share of the usual
    """
    found = hits(thicker(WHITE, laydown), count)
    return float(found.front), float(found.through)


def hits_for(opacity: float, laydown: float = 1.0) -> int:
    """The fewest hits of solid white with this contrast ratio, 0 to 1.

    Parameters
    ----------
    opacity : contrast ratio that is wanted, 0 to 1
    laydown : ink of a hit, as a share of the usual
    """
    count = 1
    while white_film(count, laydown)[0] < opacity and count < 99:
        count += 1
    return count


@lru_cache(maxsize=4)
def _shown_on_paper(profile: bytes) -> ImageCms.ImageCmsTransform:
    # Relative to paper: the film alone, not the paper's tint.
    return ImageCms.buildTransform(
        io.BytesIO(profile),
        io.BytesIO(srgb_profile()),
        "CMYK",
        "RGB",
        ImageCms.Intent.RELATIVE_COLORIMETRIC,
    )


@dataclass(frozen=True, eq=False)
class Coloured:
    """A colour film in so many hits, or parts of one, of four plates uint8 (h, w), C, M, Y, K.

    Light crosses the film twice on perfect white, so its transmittance is the root of the
    reflectance that the profile states for the inks on paper. What the profile says of halftones
    is in the transmittance already.
    """

    plates: tuple[Plate, ...]
    profile: bytes
    hits: float = 1

    def reflected(self, tile: Patch) -> list[FilmFigure]:
        """Nothing in any band; what is seen of the inks is what comes back through them.

        Parameters
        ----------
        tile : rows and columns of the picture
        """
        return [0.0, 0.0, 0.0]

    def in_place(self, tile: Patch) -> Bands:
        """The film of a tile, figures float32 (h, w), or numbers where it is the same all over.

        Parameters
        ----------
        tile : rows and columns of the picture
        """
        plates = [plate[tile] for plate in self.plates]
        same = all(even(plate) for plate in plates)
        merged = cv2.merge([plate[:1, :1] for plate in plates] if same else plates)
        size = (merged.shape[1], merged.shape[0])
        picture = Image.frombuffer("CMYK", size, merged, "raw", "CMYK", 0, 1)
        shown = applied(_shown_on_paper(self.profile), picture)
        table: Light = (np.sqrt(linear_table()) ** self.hits).astype(np.float32)
        through = [cv2.LUT(band, table) for band in cv2.split(shown)]
        return each(Film.even(0.0, float(band[0, 0]) if same else band) for band in through)


def substrate(surface: Surface) -> Leveled:
    """The piece itself: opaque ones let nothing through, translucent ones half of their colour.

    Parameters
    ----------
    surface : of the piece
    """
    if surface.material is Material.CLEAR:
        return Leveled((Film.even(0.01, 0.97),) * 3)
    half = surface.material is Material.TRANSLUCENT
    return Leveled(
        each(
            Film.even(0.48 * light, 0.48 * light) if half else Film.even(light, 0.0)
            for light in to_linear(surface.colour)
        )
    )


def layer_films(
    layers: tuple[Layer, ...],
    plates: list[Plate],
    profile: bytes,
    inks: InkSet = USUAL,
) -> dict[str, StackPart]:
    """Each layer's film by its name, in place: partial coverage is the mean over the area.

    Parameters
    ----------
    layers : from the substrate up
    plates : coverage, uint8 (h, w) each
    profile : the printer's CMYK profile, ICC bytes
    inks : of the printer

    Returns
    -------
    Films by the name of their layer.
    """
    found: dict[str, StackPart] = {}
    at = 0
    for layer in layers:
        count = layer.plates
        found[layer.name] = _film(layer, plates[at : at + count], profile, inks)
        at += count
    return found


def _film(layer: Layer, plates: list[Plate], profile: bytes, inks: InkSet) -> StackPart:
    if layer.kind is LayerKind.COLOUR:
        return Coloured(tuple(plates), profile, layer.hits * inks.laydown)
    if layer.kind is LayerKind.BLACKOUT and not inks.own_blackout:
        return Leveled(_process_black(profile, inks.laydown, layer.hits), (plates[0],))
    one = _SOLID.get(layer.kind)
    if one is not None:
        solid: Bands = (thicker(one, inks.laydown),) * 3
    else:
        usual = _named(dict(inks.named).get(layer.ink or "", GREY))
        solid = each(thicker(film, inks.laydown) for film in usual)
    return Leveled.covering(solid, plates[0], layer.hits)


@lru_cache(maxsize=16)
def _process_black(profile: bytes, laydown: float, count: int) -> Bands:
    """Process black at each of 256 levels as blackout: it lets through what the profile says.

    What little a solid hit reflects of its own is that of blackout.
    """
    levels = np.arange(256, dtype=np.uint8)[None, :]
    bare = np.zeros_like(levels)
    ink = Coloured((bare, bare, bare, levels), profile, laydown)
    own = float(BLACKOUT.front) * levels[0] / 255.0
    through = (np.asarray(film.through)[0] for film in ink.in_place((slice(None), slice(None))))
    return each(hits(Film.even(np.minimum(own, 1.0 - share), share), count) for share in through)


def _named(colour: str) -> Bands:
    """One solid hit of a named ink."""
    return each(Film.even(light * NAMED_HIDES, 1.0 - NAMED_HIDES) for light in to_linear(colour))


def light_of_white(surface: Surface, inks: InkSet = USUAL) -> float:
    """Light that comes from behind through a bare piece with one solid hit of white, 0 to 1.

    Parameters
    ----------
    surface : of the piece
    inks : of the printer
    """
    white = (thicker(WHITE, inks.laydown),) * 3
    films = joined(white, substrate(surface).films)
    return max(float(film.through) for film in films)
