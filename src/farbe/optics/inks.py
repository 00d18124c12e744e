"""What inks and pieces do to light: each layer's film, and the piece's own."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from farbe.art.artwork import Pixels
from farbe.kept import Kept
from farbe.model.condition import USUAL_SHINE, Condition, Gloss, InkFilm
from farbe.model.layer import Layer
from farbe.model.piece import Material, Surface
from farbe.model.printer import LayerKind, Printer
from farbe.optics.films import Bands, Film, FilmFigure, Light, each, hits, joined, thicker
from farbe.optics.levels import Leveled, StackPart, even
from farbe.optics.light import Patch, to_linear
from farbe.optics.onpaper import light_on_paper
from farbe.separate.choke import Plate
from farbe.separate.sent import wanted_levels

#: Contrast ratio of one solid hit of white: reflectance over black by reflectance over white.
WHITE_CONTRAST = 0.72
#: One solid hit of white: it absorbs nothing, so over black it reflects its contrast ratio.
WHITE = Film.even(WHITE_CONTRAST, 1.0 - WHITE_CONTRAST)
#: One solid hit of blackout.
BLACKOUT = Film.even(0.015, 0.05)
#: How much of what lies behind a solid hit of a named ink is hidden.
NAMED_HIDES = 0.85
#: How a named ink looks that the printer does not have.
GREY = "#808080"
#: The least light that a film of colour lets through; nothing is blacker.
LEAST_LIGHT = 1e-4
_SOLID = {LayerKind.WHITE: WHITE, LayerKind.BLACKOUT: BLACKOUT}


@dataclass(frozen=True)
class InkSet:
    """What of a printer matters to how its inks look.

    Attributes
    ----------
    printer : as it is set; None is a printer with the usual inks
    condition : what it was measured to do; None takes figures that are usual
    lit : CMYK profile, ICC bytes, of light that comes through the colour from behind; None takes
        what follows from daylight
    """

    printer: Printer | None = None
    condition: Condition | None = None
    lit: bytes | None = None

    @classmethod
    def of(
        cls, printer: Printer, condition: Condition | None = None, lit: bytes | None = None
    ) -> InkSet:
        """The inks of a printer in the mode that it is set to.

        Parameters
        ----------
        printer : as it is set
        condition : that fits
        lit : its profile of light from behind
        """
        return cls(printer, condition, lit)

    @property
    def laydown(self) -> float:
        """Ink of a hit, as a share of what its film is told for."""
        laydown = 100.0 if self.printer is None else self.printer.laydown
        return laydown / (100.0 if self.condition is None else self.condition.mode_laydown)

    def ink(self, kind: LayerKind, name: str | None = None) -> str | None:
        """The name of the ink that prints a kind of layer other than colour.

        Parameters
        ----------
        kind : of layer
        name : of a named ink
        """
        inks = () if self.printer is None else self.printer.inks_of(kind, name)
        return inks[0].name if inks else None

    def measured(self, kind: LayerKind, name: str | None = None) -> Bands | None:
        """One solid hit as it was measured, in the mode that the printer is set to.

        Parameters
        ----------
        kind : of layer
        name : of a named ink
        """
        ink = self.ink(kind, name)
        found = None if ink is None or self.condition is None else self.condition.film(ink)
        return None if found is None else _laid(found, self.laydown)

    def white(self) -> Bands:
        """One solid hit of white."""
        return self.measured(LayerKind.WHITE) or (thicker(WHITE, self.laydown),) * 3

    def wanted(self, kind: LayerKind, name: str | None, plates: list[Plate]) -> list[Plate]:
        """What was wanted of plates that were sent by the curves of their inks.

        Parameters
        ----------
        kind : of layer
        name : of a named ink
        plates : uint8 (h, w) each, four of colour
        """
        if self.condition is None or not self.condition.curves or self.printer is None:
            return plates
        curves = [self.condition.curve(one.name) for one in self.printer.inks_of(kind, name)]
        if len(curves) != len(plates):
            return plates
        return [
            plate if curve is None else np.asarray(cv2.LUT(plate, wanted_levels(curve)), np.uint8)
            for plate, curve in zip(plates, curves, strict=True)
        ]


#: The inks as these films are told for.
USUAL = InkSet()


@lru_cache(maxsize=64)
def _laid(film: InkFilm, laydown: float) -> Bands:
    """A measured film laid down with so much of its ink."""
    bands = [Film.even(r, t) for r, t in zip(film.reflected, film.through, strict=True)]
    if len(set(zip(film.reflected, film.through, strict=True))) == 1:
        return (thicker(bands[0], laydown),) * 3
    return each(thicker(band, laydown) for band in bands)


def white_film(count: int, inks: InkSet = USUAL) -> tuple[float, float]:
    """Reflectance and transmittance of so many solid hits of white, the mean of all bands.

    Parameters
    ----------
    count : of hits
    inks : of the printer
    """
    found = [hits(film, count) for film in inks.white()]
    return (
        sum(float(film.front) for film in found) / 3,
        sum(float(film.through) for film in found) / 3,
    )


def white_contrast(count: int, inks: InkSet = USUAL) -> float:
    """Contrast ratio of so many solid hits of white, over black by over white.

    Parameters
    ----------
    count : of hits
    inks : of the printer
    """
    reflected, through = white_film(count, inks)
    return reflected / (reflected + through**2 / (1.0 - reflected)) if reflected < 1.0 else 1.0


#: So many hits are more than anybody prints.
MOST_HITS = 99


def hits_for(opacity: float, inks: InkSet = USUAL) -> int:
    """The fewest hits of solid white with this contrast ratio, 0 to 1.

    Parameters
    ----------
    opacity : contrast ratio that is wanted, 0 to 1
    inks : of the printer
    """
    count = 1
    while white_contrast(count, inks) < opacity - 1e-12 and count < MOST_HITS:
        count += 1
    return count


#: What colours of a tile let through, (h, w) for each band, by their inks, profile and power: of
#: so many tiles and bytes, the inks among them.
_MET: Kept[tuple[bytes, tuple[int, ...], bytes, float], tuple[Light, ...]] = Kept(
    512, most=48 << 20, weigh=lambda bands: 16 * bands[0].size
)


@dataclass(frozen=True, eq=False)
class Coloured:
    """A colour film of four plates uint8 (h, w), C, M, Y, K.

    Attributes
    ----------
    plates : as they were wanted, before the curves of the inks
    profile : what the inks look like on white, ICC bytes
    power : what lets light through is what the profile states, to this power. By daylight light
        crosses the film twice on perfect white, so one hit is its root, 0.5. What the profile
        says of halftones is in it already.
    """

    plates: tuple[Plate, ...]
    profile: bytes
    power: float = 0.5

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
        inks = np.asarray(merged, np.uint8)
        # Most edits leave the colour of most tiles as it is.
        key = inks.tobytes(), inks.shape, self.profile, self.power
        through = _MET.get(key, lambda: self._through(inks))
        return each(Film.even(0.0, float(band[0, 0]) if same else band) for band in through)

    def _through(self, inks: Pixels) -> tuple[Light, ...]:
        """The share of light that inks, uint8 (h, w, 4), let through in each band."""
        light = np.clip(light_on_paper(inks, self.profile), LEAST_LIGHT, 1)
        bands = cv2.split(cv2.sqrt(light) if self.power == 0.5 else cv2.pow(light, self.power))
        for band in bands:
            band.flags.writeable = False
        return tuple(np.asarray(band, np.float32) for band in bands)


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
    *,
    lit: bool = False,
) -> dict[str, StackPart]:
    """Each layer's film by its name, in place: partial coverage is the mean over the area.

    Varnish is clear here; what its gloss does is :func:`gloss_film`'s.

    Parameters
    ----------
    layers : from the substrate up
    plates : coverage as it is sent, uint8 (h, w) each
    profile : the printer's CMYK profile, ICC bytes
    inks : of the printer
    lit : for light that comes from behind

    Returns
    -------
    Films by the name of their layer.
    """
    found: dict[str, StackPart] = {}
    at = 0
    for layer in layers:
        count = layer.plates
        wanted = inks.wanted(layer.kind, layer.ink, plates[at : at + count])
        found[layer.name] = _film(layer, wanted, profile, inks, lit=lit)
        at += count
    return found


def _film(
    layer: Layer, plates: list[Plate], profile: bytes, inks: InkSet, *, lit: bool
) -> StackPart:
    if layer.kind is LayerKind.COLOUR:
        thick = layer.hits * inks.laydown
        if lit and inks.lit is not None:
            return Coloured(tuple(plates), inks.lit, thick)
        return Coloured(tuple(plates), profile, 0.5 * thick)
    if layer.kind is LayerKind.VARNISH:
        return Leveled((Film.even(0.0, 1.0),) * 3)
    solid = inks.measured(layer.kind, layer.ink)
    if solid is None and layer.kind is LayerKind.BLACKOUT and not _has_blackout(inks):
        return Leveled(_process_black(profile, inks.laydown, layer.hits), (plates[0],))
    return Leveled.covering(solid or _usual(layer, inks), plates[0], layer.hits)


def _has_blackout(inks: InkSet) -> bool:
    """Whether the printer has an ink for blackout; process black prints it otherwise."""
    return inks.printer is None or any(ink.kind is LayerKind.BLACKOUT for ink in inks.printer.inks)


def _usual(layer: Layer, inks: InkSet) -> Bands:
    """One solid hit as inks of its kind usually are."""
    one = _SOLID.get(layer.kind)
    if one is not None:
        return (thicker(one, inks.laydown),) * 3
    shown = {ink.name: ink.shown for ink in (inks.printer.inks if inks.printer else ())}
    return each(thicker(film, inks.laydown) for film in _named(shown.get(layer.ink or "", GREY)))


@lru_cache(maxsize=16)
def _process_black(profile: bytes, laydown: float, count: int) -> Bands:
    """Process black at each of 256 levels as blackout: it lets through what the profile says.

    What little a solid hit reflects of its own is that of blackout.
    """
    levels = np.arange(256, dtype=np.uint8)[None, :]
    bare = np.zeros_like(levels)
    ink = Coloured((bare, bare, bare, levels), profile, 0.5 * laydown)
    own = float(BLACKOUT.front) * levels[0] / 255.0
    through = (np.asarray(film.through)[0] for film in ink.in_place((slice(None), slice(None))))
    return each(hits(Film.even(np.minimum(own, 1.0 - share), share), count) for share in through)


def _named(colour: str) -> Bands:
    """One solid hit of a named ink."""
    return each(Film.even(light * NAMED_HIDES, 1.0 - NAMED_HIDES) for light in to_linear(colour))


def gloss_film(plate: Plate, inks: InkSet = USUAL) -> StackPart:
    """What varnish on top does to the light of the surface, however many its hits are.

    A surface gives back a little of all light by itself, whatever lies under it (Fresnel). Gloss
    sends that away from the eye, so darks are darker: of a reflectance R, (R - s) / (1 - s) is
    left. Matt scatters it to all sides, so darks are lighter: s + (1 - s) R. Light from behind
    is not changed.

    Parameters
    ----------
    plate : coverage, uint8 (h, w)
    inks : of the printer
    """
    condition = inks.condition
    gloss, share = (Gloss.GLOSSY, USUAL_SHINE) if condition is None else (
        condition.gloss, condition.shine
    )  # fmt: skip
    if gloss is Gloss.MATT:
        solid = Film(share, 0.0, math.sqrt(1.0 - share))
    else:
        solid = Film(-share / (1.0 - share), 0.0, math.sqrt(1.0 / (1.0 - share)))
    cover = np.arange(256) / 255.0
    # Gloss is of the surface: the mean of what is seen over the area, not of what goes through.
    front = cover * float(solid.front)
    through = np.sqrt(cover * float(solid.twice) + 1.0 - cover)
    return Leveled((Film(front, 0.0, through),) * 3, (plate,))


def light_of_white(surface: Surface, inks: InkSet = USUAL) -> float:
    """Light that comes from behind through a bare piece with one solid hit of white, 0 to 1.

    Parameters
    ----------
    surface : of the piece
    inks : of the printer
    """
    films = joined(inks.white(), substrate(surface).films)
    return max(float(film.through) for film in films)
