"""The predicted look of a stack, in linear sRGB bands."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import takewhile

import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels
from farbe.kept import once
from farbe.model.layer import Layer
from farbe.model.piece import Reader, Surface
from farbe.model.printer import LayerKind
from farbe.optics.films import Bands, Film, FilmFigure, Light, each, over, stacked
from farbe.optics.inks import (
    USUAL,
    InkSet,
    gloss_film,
    layer_films,
    light_of_white,
    substrate,
)
from farbe.optics.levels import Leveled, LevelPicture, StackPart, grouped
from farbe.optics.light import Patch, in_tiles, to_linear, to_screen
from farbe.separate.choke import Plate

#: Share of each band in luminance (IEC 61966-2-1).
LUMINANCE = (0.2126, 0.7152, 0.0722)
#: What is seen behind a clear piece: a grey wall.
BEHIND = "#8f9394"


def seen_order(reader: Reader, layers: tuple[Layer, ...]) -> tuple[Layer, ...]:
    """Layers from what is behind them towards the reader's eye.

    Parameters
    ----------
    reader : who reads the piece
    layers : of one print, from the substrate up
    """
    return layers if reader is Reader.FACE else layers[::-1]


#: The light of a tile in each band, float32 (h, w) or a number.
Shining = Callable[[Patch], list[FilmFigure]]


@dataclass(frozen=True, eq=False)
class Seen:
    """What comes from a piece to its reader, in linear sRGB.

    ``shines`` tells it of a tile by light from the reader's side, each band float32 (h, w) or a
    number, and what ``lit`` gives by light from behind, for which it is asked once. ``white`` is
    what one hit of white lets through from behind: light is shown so that this looks white, so more
    hits look darker, as they are.
    """

    size: tuple[int, int]
    shines: Shining
    lit: Callable[[], Shining]
    white: float

    @once
    def day(self) -> Light:
        """By light from the reader's side, float32 (3, h, w)."""
        return self._all(self.shines)

    @once
    def through(self) -> Light:
        """By light from behind, float32 (3, h, w)."""
        return self._all(self._behind)

    @once
    def _behind(self) -> Shining:
        return self.lit()

    def _all(self, of: Shining) -> Light:
        light = np.empty((3, *self.size), np.float32)

        def work(tile: Patch) -> None:
            for band, level in enumerate(of(tile)):
                light[band, *tile] = level

        in_tiles(self.size, work)
        return light

    def turned(self) -> Seen:
        """The same turned over sideways."""
        wide = self.size[1]

        def turned(of: Shining) -> Shining:
            def shines(tile: Patch) -> list[FilmFigure]:
                left, right, _ = tile[1].indices(wide)
                levels = of((tile[0], slice(wide - right, wide - left)))
                return [one[:, ::-1] if isinstance(one, np.ndarray) else one for one in levels]

            return shines

        return Seen(self.size, turned(self.shines), lambda: turned(self._behind), self.white)

    @property
    def gain(self) -> float:
        """Factor by which light from behind is raised for the screen, without more exposure."""
        return 1.0 / self.white if self.white > 1e-3 else 0.0

    def light_at(
        self, row: int, column: int, lit: float, gain: float | None = None
    ) -> tuple[float, float, float]:
        """The light of one pixel as it is shown, linear sRGB, not rounded to levels.

        Parameters
        ----------
        row, column : of the picture
        lit : share of light from behind, 0 to 1
        gain : brightness that is multiplied; None takes the usual one
        """
        pixel = slice(row, row + 1), slice(column, column + 1)

        def one(of: Shining) -> npt.NDArray[np.float64]:
            # Of one pixel, so that not all are made for it.
            return np.array([np.ravel(band)[0] for band in of(pixel)], np.float64)

        light = (1.0 - lit) * one(self.shines)
        if lit > 0:
            light = light + lit * (self.gain if gain is None else gain) * one(self._behind)
        r, g, b = light.tolist()
        return r, g, b

    def by(self, lit: float, gain: float | None = None) -> Pixels:
        """The look, sRGB uint8 (h, w, 3), from daylight (0) to lit from behind alone (1).

        ``gain`` is another than the usual one, where light from behind is exposed more or less.

        Parameters
        ----------
        lit : share of light from behind, 0 to 1
        gain : brightness that is multiplied; None takes the usual one

        Returns
        -------
        sRGB, uint8 (h, w, 3)
        """
        if lit <= 0:
            return to_screen(self.shines, self.size)
        day = np.float32(1.0 - lit)
        raised = np.float32(lit * (self.gain if gain is None else gain))
        through = self.through
        return to_screen(lambda t: [*(day * self.day[:, *t] + raised * through[:, *t])], self.size)


def _ground(light: Light) -> StackPart:
    """What is seen behind a piece, linear sRGB (3,) or (h, w, 3), as an opaque film."""
    if light.ndim == 3:
        return LevelPicture(light)
    return Leveled(each(Film.even(float(level), 0.0) for level in light))


def seen(
    layers: tuple[Layer, ...],
    plates: list[Plate],
    *,
    reader: Reader,
    surface: Surface,
    profile: bytes,
    inks: InkSet = USUAL,
    behind: Light | None = None,
) -> Seen:
    """What the reader sees of a piece.

    Parameters
    ----------
    layers : layers that print, substrate up
    plates : as :meth:`Separation.plates` gives them, as the reader sees them (not mirrored)
    inks : of the printer
    behind : what is seen through the piece by day, linear sRGB (3,) or (h, w, 3); else a wall
    reader : who looks
    surface : what is printed on
    profile : of the printer, CMYK, as ICC bytes
    """
    ground = np.array(to_linear(BEHIND), np.float32) if behind is None else behind
    from_back = seen_order(reader, layers)
    height, width = plates[0].shape

    piece = substrate(surface)

    def parts(*, lit: bool) -> list[StackPart]:
        films = layer_films(layers, plates, profile, inks, lit=lit)
        printed = [films[layer.name] for layer in from_back]
        return [*printed, piece] if reader is Reader.THROUGH else [piece, *printed]

    # The first group holds the ground, so it is opaque: what it reflects is all of it.
    gloss = _gloss(layers, plates, reader, inks)
    first, *groups = grouped([_ground(ground), *parts(lit=False), *gloss])

    def by_day(tile: Patch) -> list[FilmFigure]:
        levels = first.reflected(tile)
        for group in groups:
            film = group.in_place(tile)
            levels = [over(film[band], levels[band]) for band in range(3)]
        return levels

    def from_behind() -> Shining:
        groups = grouped(parts(lit=True))[::-1]
        return lambda tile: [
            film.through for film in stacked([group.in_place(tile) for group in groups])
        ]

    return Seen((height, width), by_day, from_behind, light_of_white(surface, inks))


def _gloss(
    layers: tuple[Layer, ...], plates: list[Plate], reader: Reader, inks: InkSet
) -> list[StackPart]:
    """What varnish does that is nearest to the eye; under other films its gloss is gone."""
    if reader is not Reader.FACE or not layers or layers[-1].kind is not LayerKind.VARNISH:
        return []
    # Layers of varnish on one another are one surface.
    count = len(list(takewhile(lambda layer: layer.kind is LayerKind.VARNISH, layers[::-1])))
    cover = plates[-1] if count == 1 else np.max(plates[-count:], axis=0)
    return [gloss_film(np.asarray(cover, np.uint8), inks)]


def look(
    layers: tuple[Layer, ...],
    plates: list[Plate],
    *,
    reader: Reader,
    surface: Surface,
    profile: bytes,
    inks: InkSet = USUAL,
) -> Pixels:
    """The predicted look of a piece by daylight, sRGB uint8 (h, w, 3); see :func:`seen`.

    Parameters
    ----------
    layers : substrate up
    plates : uint8 (h, w) each, four of colour
    reader : who looks
    surface : what lies behind the ink
    profile : bytes of the printer's ICC profile
    inks : of the printer

    Returns
    -------
    sRGB, uint8 (h, w, 3)
    """
    found = seen(layers, plates, reader=reader, surface=surface, profile=profile, inks=inks)
    return found.by(0.0)


def opacity(
    layers: tuple[Layer, ...],
    plates: list[Plate],
    profile: bytes,
    inks: InkSet = USUAL,
) -> Light:
    """Contrast ratio of the layers, float32 (h, w): over black by over white, of luminance.

    ISO 6504-3 measures paints so; nothing hides nothing, and a perfect film gives 1.

    Parameters
    ----------
    layers : of one print, from the substrate up
    plates : uint8 (h, w) each
    profile : ICC bytes
    inks : of the printer
    """
    found = np.empty(plates[0].shape, np.float32)
    films = layer_films(layers, plates, profile, inks)
    groups = grouped([films[layer.name] for layer in layers])[::-1]

    def work(tile: Patch) -> None:
        whole = stacked([group.in_place(tile) for group in groups])
        black, white = _luminance(whole, 0.0), _luminance(whole, 1.0)
        found[tile] = black / np.maximum(white, 1e-6)

    in_tiles(found.shape, work)
    return found


def _luminance(film: Bands, ground: float) -> FilmFigure:
    """Luminance of a film on a grey ground."""
    shares = [share * over(band, ground) for share, band in zip(LUMINANCE, film, strict=True)]
    return shares[0] + shares[1] + shares[2]
