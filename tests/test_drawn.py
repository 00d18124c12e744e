"""What is drawn on the grid of the output: artwork at another size, lines of type, turned tiles."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from PIL import Image

from farbe.art.artwork import Artwork, Space
from farbe.render.rearranged import channels_at, quarter_turned, reversed_pixels
from farbe.separate.lettering import Lettering
from farbe.separate.outline import rasterise
from farbe.separate.place import PlacedArtwork
from farbe.separate.resample import resampled_rows

SIZES = (((120, 90), (310, 222)), ((260, 200), (113, 77)), ((40, 30), (40, 61)))


def picture(size: tuple[int, int], *, seed: int = 4) -> np.ndarray:
    """Soft colours with hard and soft edges of alpha, some rows empty and some opaque."""
    rng = np.random.default_rng(seed)
    height = size[1]
    coarse = rng.integers(0, 256, (7, 9, 4)).astype(np.uint8)
    pixels = cv2.resize(coarse, size, interpolation=cv2.INTER_CUBIC)
    pixels[..., 3][pixels[..., 3] > 150] = 255
    pixels[: height // 4, :, 3], pixels[-height // 4 :, :, 3] = 0, 255
    return pixels


@pytest.mark.parametrize(("size", "drawn"), SIZES)
def test_artwork_at_another_size_is_what_another_filter_makes(
    size: tuple[int, int], drawn: tuple[int, int]
) -> None:
    """Pillow's, in floats: a level apart at the most, and nearly nowhere."""
    pixels = picture(size)
    enlarged = drawn[0] * drawn[1] >= size[0] * size[1]
    method = Image.Resampling.BICUBIC if enlarged else Image.Resampling.HAMMING

    def judge(plane: np.ndarray) -> np.ndarray:
        return np.asarray(Image.fromarray(plane).resize(drawn, method), np.float64)

    cover = pixels[..., 3].astype(np.float32)
    alpha = judge(cover)
    found = resampled_rows(Artwork(pixels, Space.RGB, (300.0, 300.0), None), drawn, 0, drawn[1])
    off = np.abs(found[..., 3] - np.clip(alpha, 0, 255))
    assert off.max() < 0.51
    seen = alpha >= 0.5
    for channel in range(3):
        wanted = judge(pixels[..., channel] * cover)[seen] / alpha[seen]
        off = np.abs(found[..., channel][seen] - np.clip(wanted, 0, 255))
        assert off.max() < 0.6 and (off > 0.51).mean() < 1e-3
    assert not found[~seen][:, :3].any()


@pytest.mark.parametrize(("size", "drawn"), SIZES)
def test_rows_at_another_size_do_not_depend_on_who_asks(
    size: tuple[int, int], drawn: tuple[int, int], monkeypatch: pytest.MonkeyPatch
) -> None:
    """Part by part, where some parts cover all and some nothing, and with little at once."""
    art = Artwork(picture(size), Space.RGB, (300.0, 300.0), None)
    whole = resampled_rows(art, drawn, 0, drawn[1])
    parts = [
        resampled_rows(art, drawn, at, min(at + 13, drawn[1])) for at in range(0, drawn[1], 13)
    ]
    columns = [
        resampled_rows(art, drawn, 0, drawn[1], (at, min(at + 13, drawn[0])))
        for at in range(0, drawn[0], 13)
    ]
    for found in (np.concatenate(parts), np.concatenate(columns, axis=1)):
        off = np.abs(found.astype(int) - whole)
        assert off.max() <= 1 and (off > 0).mean() < 1e-3


@pytest.mark.parametrize("offset", [(0, 0), (-300, -20), (-761, -95), (40, 12)])
@pytest.mark.parametrize("wide", [90, 400, 900])
def test_a_part_of_a_wall_is_what_the_wall_has_there(offset: tuple[int, int], wide: int) -> None:
    """A piece that shows a small part of its artwork shows what all of it would have there."""
    art = Artwork(picture((70, 31)), Space.RGB, (300.0, 300.0), None)
    whole = np.zeros((300, 1800, 4), np.uint8)
    whole[100 : 100 + 120, 100 : 100 + 800] = resampled_rows(art, (800, 120), 0, 120)
    x, y = 100 - offset[0], 100 - offset[1]
    found = PlacedArtwork(art, (wide, 60), (800, 120), offset).pixels(0, 60)
    assert np.abs(found.astype(int) - whole[y : y + 60, x : x + wide]).max() <= 1


def test_even_edges_do_not_waver() -> None:
    """Where half a pixel is covered all along an edge, it is one level, whatever is beside it."""
    rng = np.random.default_rng(2)
    pixels = np.zeros((60, 400, 4), np.uint8)
    pixels[..., :3] = rng.integers(0, 256, (60, 400, 3))
    pixels[21:39, :, 3] = 255
    found = resampled_rows(Artwork(pixels, Space.RGB, (300.0, 300.0), None), (200, 30), 0, 30)
    assert (found[..., 3] == found[:, :1, 3]).all() and found[10, 0, 3] == 128


@pytest.mark.long
def test_glyphs_that_touch_do_not_cut_holes_into_each_other() -> None:
    """Any rows of a line are the most of its glyphs, each by itself, within the outline."""
    rng, width = np.random.default_rng(1), 180
    for number in range(60):
        glyphs = tuple(
            tuple(
                rng.random((int(rng.integers(3, 9)), 2)) * rng.integers(4, 60)
                + rng.random(2) * 200 - 20
                for _ in range(int(rng.integers(1, 3)))
            )
            for _ in range(int(rng.integers(1, 9)))
        )  # fmt: skip
        square = np.array([(-5.0, -5.0), (300.0, -5.0), (300.0, 300.0), (-5.0, 300.0)])
        clip = (square if number % 2 else rng.random((7, 2)) * 250,)
        line = Lettering(glyphs, (0, 0, 0, 255), clip)
        for start, stop in ((0, 50), (20, 200), (-10, 400)):
            alone = [rasterise(rings, width, start, stop) for rings in glyphs]
            mask = rasterise(clip, width, start, stop)
            wanted = np.maximum.reduce(alone) * (mask / 255.0)
            found = np.zeros(wanted.shape, np.uint8)
            covered = line.cover(width, start, stop)
            if covered is not None:
                found[covered[0]] = covered[1]
            assert np.abs(found - wanted).max() <= 1.01


@pytest.mark.parametrize("count", [1, 3, 5, 6])
def test_pixels_in_another_order_are_the_same_pixels(count: int) -> None:
    pixels = np.random.default_rng(7).integers(0, 256, (31, 47, count)).astype(np.uint8)
    for quarters in range(4):
        assert np.array_equal(quarter_turned(pixels, quarters), np.rot90(pixels, quarters))
    for lines in (False, True):
        for columns in (False, True):
            wanted = pixels[:: -1 if lines else 1, :: -1 if columns else 1]
            assert np.array_equal(reversed_pixels(pixels, lines=lines, columns=columns), wanted)
    places = (count - 1, 0)
    assert np.array_equal(channels_at(pixels, places), pixels[..., list(places)])
