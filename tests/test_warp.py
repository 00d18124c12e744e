"""Turned and bent artwork against plain arithmetic in double precision."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy import ndimage

from farbe.art.artwork import CHANNELS, Artwork, Space
from farbe.separate.warp import bent_rows, warped

WIDE, HIGH = 700, 300


def picture(space: Space, *, alpha: bool) -> Artwork:
    """Noise that is opaque on the left, soft in the middle, and not there on the right."""
    random = np.random.default_rng(7)
    pixels = random.integers(0, 256, (HIGH, WIDE, CHANNELS[space] + alpha)).astype(np.uint8)
    if alpha:
        pixels[:, :260, -1], pixels[:, 420:, -1] = 255, 0
    return Artwork(pixels, space, None, None)


def reference(art: Artwork, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Colours, float64 (h, w, n), and alpha at places in pixels, each between its four pixels."""
    pixels = art.pixels.astype(np.float64)
    if not art.has_alpha:
        pixels = np.dstack([pixels, np.full(pixels.shape[:2], 255.0)])
    return between(pixels, x, y)


def between(pixels: np.ndarray, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Straight pixels, alpha last, at places between them."""
    weighed = np.dstack([pixels[..., :-1] * pixels[..., -1:] / 255, pixels[..., -1]])
    # Beyond the artwork there is nothing, half a pixel after the middle of its last.
    padded = np.pad(weighed, ((2, 2), (2, 2), (0, 0)))
    *colours, cover = (
        ndimage.map_coordinates(padded[..., at], [y + 2, x + 2], order=1, mode="constant")
        for at in range(padded.shape[2])
    )
    return np.dstack(colours) * 255 / np.maximum(cover, 0.5)[..., None], cover


def same(found: np.ndarray, wanted: tuple[np.ndarray, np.ndarray]) -> None:
    colours, cover = wanted
    assert np.abs(found[..., -1] - cover).max() <= 1
    # Of what is hardly there, a level is much of a colour; of what is not there it is 0.
    there = cover > 20
    assert there.mean() > 0.1
    assert np.abs(found[..., :-1] - colours)[there].max() <= 1
    assert not found[found[..., -1] == 0].any()


@pytest.mark.long
@pytest.mark.parametrize("space", [Space.RGB, Space.GREY, Space.CMYK])
@pytest.mark.parametrize("alpha", [True, False])
@pytest.mark.parametrize(("degrees", "scale"), [(0.0, 0.7), (31.0, 0.9), (-90.0, 1.0)])
def test_turned_artwork_lies_between_its_pixels(
    space: Space, alpha: bool, degrees: float, scale: float
) -> None:
    art, turn = picture(space, alpha=alpha), math.radians(degrees)
    linear = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]]) * scale
    shift = np.array([WIDE / 2, HIGH / 2]) - linear @ np.array([400.0, 300.0])
    matrix = np.hstack([linear, shift[:, None]])
    y, x = np.mgrid[128:384, 0:800]
    found = warped(art, matrix, 800, 128, 384)
    at = linear @ np.stack([x.ravel(), y.ravel()]) + shift[:, None]
    same(found, reference(art, at[0].reshape(x.shape), at[1].reshape(x.shape)))


@pytest.mark.parametrize("space", [Space.RGB, Space.GREY, Space.CMYK])
def test_reduced_artwork_is_averaged_first(space: Space) -> None:
    """Turned artwork of 2.4 pixels to one: it lies between means of two by two."""
    art, turn, by = picture(space, alpha=True), math.radians(20), 2
    linear = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]]) * 2.4
    shift = np.array([WIDE / 2, HIGH / 2]) - linear @ np.array([160.0, 90.0])
    found = warped(art, np.hstack([linear, shift[:, None]]), 320, 0, 128)
    blocks = art.pixels.reshape(HIGH // by, by, WIDE // by, by, -1).astype(np.float64)
    cover = blocks[..., -1:].mean(axis=(1, 3))
    colours = (blocks[..., :-1] * blocks[..., -1:]).mean(axis=(1, 3)) / np.maximum(cover, 1e-9)
    y, x = np.mgrid[0:128, 0:320]
    at = (linear @ np.stack([x.ravel(), y.ravel()]) + shift[:, None]).reshape(2, 128, 320)
    # The middle of two pixels is half a pixel on.
    at = (at + 0.5) / by - 0.5
    same(found, between(np.concatenate([colours, cover], axis=2), *at))


@pytest.mark.parametrize("space", [Space.RGB, Space.CMYK])
def test_bent_artwork_lies_between_its_pixels(space: Space) -> None:
    art = picture(space, alpha=True)

    def bend(places: np.ndarray) -> np.ndarray:
        x, y = places[..., 0], places[..., 1]
        return np.stack([0.8 * x + 0.0002 * y**2, 0.6 * y + 9 * np.sin(x / 90)], axis=-1)

    y, x = np.mgrid[128:256, 0:800]
    at = bend(np.stack([x + 0.5, y + 0.5], axis=-1)) - 0.5
    same(bent_rows(art, bend, 800, 128, 256), reference(art, at[..., 0], at[..., 1]))
