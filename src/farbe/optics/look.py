"""A first prediction of a stack's look, in linear sRGB bands."""

from __future__ import annotations

import io
from collections.abc import Mapping
from functools import lru_cache

import cv2
import numpy as np
import numpy.typing as npt
from PIL import Image, ImageCms

from farbe.art.artwork import Pixels
from farbe.model.layer import Layer
from farbe.model.piece import Material, Reader, Surface
from farbe.model.printer import LayerKind
from farbe.separate.choke import Plate
from farbe.separate.colour import srgb_profile

Light = npt.NDArray[np.float32]

#: Contrast ratio of one solid hit of white: reflectance over black by reflectance over white.
WHITE_CONTRAST = 0.72
#: Reflectance and transmittance of one solid hit of blackout.
BLACKOUT_R, BLACKOUT_T = 0.015, 0.05
#: How much of what lies behind a solid hit of a named ink is hidden.
NAMED_HIDES = 0.85
#: What is seen behind a clear piece that lies on nothing.
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
    levels = np.rint(np.clip(light, 0.0, 1.0) * 4095.0).astype(np.uint16)
    return np.asarray(_encode_table()[levels])


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


def colour_transmittance(inks: list[Plate], profile: bytes) -> Light:
    """Transmittance of a colour film, float32 (h, w, 3).

    Light crosses the film twice on perfect white, so it is the root of the reflectance that
    the profile states for the inks on paper.
    """
    merged = np.dstack(inks)
    size = (merged.shape[1], merged.shape[0])
    picture = Image.frombuffer("CMYK", size, np.ascontiguousarray(merged), "raw", "CMYK", 0, 1)
    shown = np.asarray(_shown_on_paper(profile).apply(picture))
    return np.asarray(np.sqrt(_linear_table())[shown], np.float32)


def join(r: Light | float, t: Light | float, behind: Light | float) -> Light:
    """Reflectance of a film (r, t) in front of something of reflectance ``behind``.

    Kubelka, "New Contributions to the Optics of Intensely Light-Scattering Materials, Part II",
    J. Opt. Soc. Am. 44, 1954: R = r + t² behind / (1 − r behind).
    """
    return np.asarray(r + t * t * behind / (1.0 - r * behind), np.float32)


def white_film(hits: int) -> tuple[float, float]:
    """Reflectance and transmittance of so many solid hits of white.

    One hit absorbs nothing, so over black it reflects its contrast ratio; hits join as films.
    """
    r, t = WHITE_CONTRAST, 1.0 - WHITE_CONTRAST
    total_r, total_t = r, t
    for _ in range(hits - 1):
        inner = 1.0 - total_r * r
        total_r, total_t = total_r + total_t**2 * r / inner, total_t * t / inner
    return total_r, total_t


def seen_order(reader: Reader, layers: tuple[Layer, ...]) -> tuple[Layer, ...]:
    """Layers from what is behind them towards the reader's eye."""
    return layers if reader is Reader.FACE else layers[::-1]


def look(
    layers: tuple[Layer, ...],
    plates: list[Plate],
    *,
    reader: Reader,
    surface: Surface,
    profile: bytes,
    named: Mapping[str, str] | None = None,
) -> Pixels:
    """The predicted look of a piece's face from its reader's side, sRGB uint8 (h, w, 3).

    Parameters
    ----------
    layers : layers that print, substrate up
    plates : as :meth:`Separation.plates` gives them, as the reader sees them (not mirrored)
    named : colours of named inks, ``#rrggbb``, by the ink's name
    """
    by_layer: dict[str, list[Plate]] = {}
    at = 0
    for layer in layers:
        count = 4 if layer.kind is LayerKind.COLOUR else 1
        by_layer[layer.name] = plates[at : at + count]
        at += count
    clear = surface.material is Material.CLEAR
    height, width = plates[0].shape
    light = np.empty((height, width, 3), np.float32)
    light[:] = to_linear(BEHIND if clear else surface.colour)
    for layer in seen_order(reader, layers):
        shown = (named or {}).get(layer.ink or "", "#808080")
        light = _under_film(light, layer, by_layer[layer.name], profile, shown)
    return to_screen(light)


def _under_film(
    light: Light, layer: Layer, plates: list[Plate], profile: bytes, shown: str
) -> Light:
    """The light after one more film; partial coverage mixes by area (Neugebauer)."""
    if layer.kind is LayerKind.COLOUR:
        return join(0.0, colour_transmittance(plates, profile) ** layer.hits, light)
    if layer.kind is LayerKind.WHITE:
        film = join(*white_film(layer.hits), light)
    elif layer.kind is LayerKind.BLACKOUT:
        film = join(BLACKOUT_R, BLACKOUT_T**layer.hits, light)
    elif layer.kind is LayerKind.NAMED:
        own = np.array(to_linear(shown), np.float32)
        film = join(own * NAMED_HIDES, 1.0 - NAMED_HIDES, light)
    else:
        # Gloss: a little light from the surface itself.
        film = join(0.012 * min(layer.hits, 4), 0.995, light)
    cover = cv2.merge([plates[0]] * 3).astype(np.float32) * np.float32(1 / 255.0)
    return np.asarray(light + cover * (film - light), np.float32)
