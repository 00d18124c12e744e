"""The predicted look of a stack, in linear sRGB bands."""

from __future__ import annotations

import io
import os
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property, lru_cache

import cv2
import numpy as np
from PIL import Image, ImageCms

from farbe.art.artwork import Pixels
from farbe.model.layer import Layer
from farbe.model.piece import Material, Reader, Surface
from farbe.model.printer import LayerKind
from farbe.optics.films import Figure, Film, Light, hits, join, over, stack
from farbe.separate.choke import Plate
from farbe.separate.colour import srgb_profile

#: Contrast ratio of one solid hit of white: reflectance over black by reflectance over white.
WHITE_CONTRAST = 0.72
#: A film in red, green and blue light; the same object thrice if it is alike in all.
Bands = tuple[Film, Film, Film]
#: Share of each band in luminance (IEC 61966-2-1).
LUMINANCE = (0.2126, 0.7152, 0.0722)
#: What is seen behind a clear piece: a grey wall.
BEHIND = "#8f9394"


def to_linear(colour: str) -> tuple[float, float, float]:
    """Linear sRGB, 0 to 1, of ``#rrggbb`` (IEC 61966-2-1)."""
    table = _linear_table()
    r, g, b = (float(table[int(colour[i : i + 2], 16)]) for i in (1, 3, 5))
    return r, g, b


@lru_cache(maxsize=1)
def _linear_table() -> Light:
    v = np.arange(256) / 255.0
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4).astype(np.float32)


@lru_cache(maxsize=1)
def _encode_table() -> Pixels:
    v = np.arange(4096) / 4095.0
    shown = np.where(v <= 0.0031308, v * 12.92, 1.055 * v ** (1 / 2.4) - 0.055)
    return np.asarray(np.rint(shown * 255.0), dtype=np.uint8)


def to_screen(light: Light) -> Pixels:
    """sRGB uint8 (h, w, 3) of linear light float32 (h, w, 3), clipped to 0 to 1."""
    shown = np.empty(light.shape, np.uint8)

    def strip(rows: slice) -> None:
        levels = light[rows] * np.float32(4095.0) + np.float32(0.5)
        np.clip(levels, 0.0, 4095.0, out=levels)
        np.take(_encode_table(), levels.astype(np.uint16), out=shown[rows], mode="clip")

    in_strips(light.shape[0], strip)
    return shown


#: Rows that are worked on at once: few enough for the processor's own memory.
STRIP = 32


def in_strips(height: int, work: Callable[[slice], None]) -> None:
    """Do work on strips of rows, in a thread for each processor where that is worth it."""
    strips = [slice(start, min(start + STRIP, height)) for start in range(0, height, STRIP)]
    if len(strips) < 3:
        for rows in strips:
            work(rows)
        return
    with ThreadPoolExecutor(min(8, os.cpu_count() or 1)) as pool:
        # Asking for the results hands on what went wrong.
        list(pool.map(work, strips))


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


def colour_films(inks: list[Plate], profile: bytes, count: int = 1) -> Bands:
    """A colour film in so many hits, by bands, float32 (h, w) each.

    Light crosses the film twice on perfect white, so its transmittance is the root of the
    reflectance that the profile states for the inks on paper.
    """
    merged = np.ascontiguousarray(np.dstack(inks))
    size = (merged.shape[1], merged.shape[0])
    picture = Image.frombuffer("CMYK", size, merged, "raw", "CMYK", 0, 1)
    shown = np.asarray(_shown_on_paper(profile).apply(picture))
    table = (np.sqrt(_linear_table()) ** count).astype(np.float32)
    red, green, blue = (Film.even(0.0, cv2.LUT(band, table)) for band in cv2.split(shown))
    return red, green, blue


#: One solid hit of white: it absorbs nothing, so over black it reflects its contrast ratio.
WHITE = Film.even(WHITE_CONTRAST, 1.0 - WHITE_CONTRAST)
#: One solid hit of blackout, and of varnish, whose gloss shows a little light of its own.
BLACKOUT = Film.even(0.015, 0.05)
VARNISH = Film.even(0.004, 0.994)
#: How much of what lies behind a solid hit of a named ink is hidden.
NAMED_HIDES = 0.85


def white_film(count: int) -> tuple[float, float]:
    """Reflectance and transmittance of so many solid hits of white."""
    found = hits(WHITE, count)
    return float(found.front), float(found.through)


def hits_for(opacity: float) -> int:
    """The fewest hits of solid white with this contrast ratio, 0 to 1."""
    count = 1
    while white_film(count)[0] < opacity and count < 99:
        count += 1
    return count


def seen_order(reader: Reader, layers: tuple[Layer, ...]) -> tuple[Layer, ...]:
    """Layers from what is behind them towards the reader's eye."""
    return layers if reader is Reader.FACE else layers[::-1]


@dataclass(frozen=True, eq=False)
class Seen:
    """What comes from a piece to its reader, linear sRGB float32 (h, w, 3).

    ``day`` by light from the reader's side, ``through`` by light from behind, which is worked out
    when it is first asked for.
    """

    day: Light
    lit: Callable[[], Light]

    @cached_property
    def through(self) -> Light:
        return self.lit()

    @cached_property
    def _brightest(self) -> float:
        return float(np.quantile(self.through.max(axis=2), 0.995))

    def turned(self) -> Seen:
        """The same turned over sideways."""
        return Seen(self.day[:, ::-1], lambda: self.through[:, ::-1])

    @property
    def gain(self) -> float:
        """How much light from behind is raised: eyes adapt to the brightest of it."""
        return min(20.0, 1.0 / self._brightest) if self._brightest > 1e-3 else 0.0

    def by(self, lit: float, gain: float | None = None) -> Pixels:
        """The look, sRGB uint8 (h, w, 3), from daylight (0) to lit from behind alone (1).

        ``gain`` is that of the whole piece if this is a part, or is seen beside another.
        """
        if lit <= 0:
            return to_screen(self.day)
        gain = self.gain if gain is None else gain
        light = (1.0 - lit) * self.day + lit * gain * self.through
        return to_screen(np.asarray(light, np.float32))


def seen(
    layers: tuple[Layer, ...],
    plates: list[Plate],
    *,
    reader: Reader,
    surface: Surface,
    profile: bytes,
    named: Mapping[str, str] | None = None,
    behind: Light | None = None,
) -> Seen:
    """What the reader sees of a piece.

    Parameters
    ----------
    layers : layers that print, substrate up
    plates : as :meth:`Separation.plates` gives them, as the reader sees them (not mirrored)
    named : colours of named inks, ``#rrggbb``, by the ink's name
    behind : what is seen through the piece by day, linear sRGB (3,) or (h, w, 3); else a wall
    """
    ground = np.array(to_linear(BEHIND), np.float32) if behind is None else behind
    from_back = seen_order(reader, layers)
    height, width = plates[0].shape

    def films_of(rows: slice) -> list[Bands]:
        """Films of some rows, from the back towards the reader."""
        films = layer_films(layers, [plate[rows] for plate in plates], profile, named)
        piece, printed = substrate(surface), [films[layer.name] for layer in from_back]
        return [*printed, piece] if reader is Reader.THROUGH else [piece, *printed]

    def by_day() -> Light:
        light = np.empty((height, width, 3), np.float32)

        def strip(rows: slice) -> None:
            wall = ground[rows] if ground.ndim == 3 else ground
            films = films_of(rows)
            for band in range(3):
                level: Figure = wall[..., band]
                for film in films:
                    level = over(film[band], level)
                light[rows, :, band] = level

        in_strips(height, strip)
        return light

    def from_behind() -> Light:
        light = np.empty((height, width, 3), np.float32)

        def strip(rows: slice) -> None:
            for band, film in enumerate(stacked(films_of(rows)[::-1])):
                light[rows, :, band] = film.through

        in_strips(height, strip)
        return light

    return Seen(by_day(), from_behind)


def stacked(films: list[Bands]) -> Bands:
    """Films from the reader's eye backwards, as one; what is alike in all bands is joined once."""
    runs: list[Bands] = []
    for film in films:
        alike = film[0] is film[1] is film[2]
        if alike and runs and runs[-1][0] is runs[-1][1] is runs[-1][2]:
            runs[-1] = (join(runs[-1][0], film[0]),) * 3
        else:
            runs.append(film)
    red, green, blue = (stack([film[band] for film in runs]) for band in range(3))
    return red, green, blue


def substrate(surface: Surface) -> Bands:
    """The piece itself: opaque ones let nothing through, translucent ones half of their colour."""
    if surface.material is Material.CLEAR:
        return (Film.even(0.01, 0.97),) * 3
    half = surface.material is Material.TRANSLUCENT
    red, green, blue = (
        Film.even(0.48 * light, 0.48 * light) if half else Film.even(light, 0.0)
        for light in to_linear(surface.colour)
    )
    return red, green, blue


def layer_films(
    layers: tuple[Layer, ...],
    plates: list[Plate],
    profile: bytes,
    named: Mapping[str, str] | None = None,
) -> dict[str, Bands]:
    """Each layer's film by its name, in place: partial coverage is the mean over the area."""
    found: dict[str, Bands] = {}
    at = 0
    for layer in layers:
        count = 4 if layer.kind is LayerKind.COLOUR else 1
        found[layer.name] = _films(layer, plates[at : at + count], profile, named or {})
        at += count
    return found


def _films(layer: Layer, plates: list[Plate], profile: bytes, named: Mapping[str, str]) -> Bands:
    if layer.kind is LayerKind.COLOUR:
        # What the profile says of halftones is in the transmittance already.
        return colour_films(plates, profile, layer.hits)
    solid = {LayerKind.WHITE: WHITE, LayerKind.BLACKOUT: BLACKOUT, LayerKind.VARNISH: VARNISH}
    one = solid.get(layer.kind)
    if one is not None:
        return (_covering(one, plates[0], layer.hits),) * 3
    red, green, blue = (
        _covering(Film.even(light * NAMED_HIDES, 1.0 - NAMED_HIDES), plates[0], layer.hits)
        for light in to_linear(named.get(layer.ink or "", "#808080"))
    )
    return red, green, blue


def _covering(film: Film, plate: Plate, count: int) -> Film:
    """So many hits of a film where a plate says; worked out for each of its levels once."""
    levels = hits(film.covering(np.arange(256) / 255.0), count)
    front, through = (
        cv2.LUT(plate, np.asarray(table, np.float32)) for table in (levels.front, levels.through)
    )
    return Film.even(front, through)


def look(
    layers: tuple[Layer, ...],
    plates: list[Plate],
    *,
    reader: Reader,
    surface: Surface,
    profile: bytes,
    named: Mapping[str, str] | None = None,
) -> Pixels:
    """The predicted look of a piece by daylight, sRGB uint8 (h, w, 3); see :func:`seen`."""
    found = seen(layers, plates, reader=reader, surface=surface, profile=profile, named=named)
    return found.by(0.0)


def opacity(
    layers: tuple[Layer, ...],
    plates: list[Plate],
    profile: bytes,
    named: Mapping[str, str] | None = None,
) -> Light:
    """Contrast ratio of the layers, float32 (h, w): over black by over white, of luminance.

    ISO 6504-3 measures paints so; nothing hides nothing, and a perfect film gives 1.
    """
    found = np.empty(plates[0].shape, np.float32)

    def strip(rows: slice) -> None:
        films = layer_films(layers, [plate[rows] for plate in plates], profile, named)
        whole = stacked([films[layer.name] for layer in reversed(layers)])
        black, white = _luminance(whole, 0.0), _luminance(whole, 1.0)
        found[rows] = black / np.maximum(white, 1e-6)

    in_strips(len(found), strip)
    return found


def _luminance(film: Bands, ground: float) -> Figure:
    """Luminance of a film on a grey ground."""
    shares = [share * over(band, ground) for share, band in zip(LUMINANCE, film, strict=True)]
    return shares[0] + shares[1] + shares[2]
