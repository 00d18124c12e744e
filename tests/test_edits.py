"""What is done to artwork before it is placed, and to its inks by hand."""

from __future__ import annotations

from collections import deque

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from farbe.art.artwork import Artwork, Space
from farbe.art.profiles import shipped_profile
from farbe.colour.lab import difference
from farbe.layout.faced import Faced
from farbe.layout.placing import artwork_box
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.model.edit import Adjust, Clear, Crop, CurvePoints, Edit, Recolour
from farbe.separate.colour import Converter
from farbe.separate.edit import edited
from farbe.separate.inkwork import ColourWork
from farbe.separate.tones import lab_of

COLOURS = np.array([(255, 255, 255), (250, 250, 248), (20, 90, 40), (230, 180, 20)], np.uint8)


def done(pixels: np.ndarray, *edits: Edit, space: Space = Space.RGB) -> Artwork:
    art = Artwork(pixels, space, None, None)
    file = ArtworkFile(
        digest="0" * 64, file_name="a.png", width=pixels.shape[1], height=pixels.shape[0],
        edits=edits,
    )  # fmt: skip
    return edited(art, file, shipped_profile())


def reached(near: np.ndarray) -> np.ndarray:
    """Near pixels that a walk from the border comes to."""
    height, width = near.shape
    queue = deque(
        (r, c) for r, c in np.ndindex(near.shape)
        if near[r, c] and (r in (0, height - 1) or c in (0, width - 1))
    )  # fmt: skip
    found = np.zeros(near.shape, bool)
    while queue:
        r, c = queue.popleft()
        if not (0 <= r < height and 0 <= c < width) or found[r, c] or not near[r, c]:
            continue
        found[r, c] = True
        queue.extend(((r + 1, c), (r - 1, c), (r, c + 1), (r, c - 1)))
    return found


@given(st.integers(0, 9999), st.booleans())
def test_a_background_is_cleared_where_it_is_connected(seed: int, connected: bool) -> None:
    rng = np.random.default_rng(seed)
    pixels = COLOURS[rng.choice(4, (11, 13), p=(0.35, 0.15, 0.3, 0.2))]
    clear = Clear(colours=("#ffffff",), tolerance=3, softness=0, connected=connected)
    found = done(pixels, clear)
    near = difference(lab_of(pixels), lab_of([255, 255, 255])) <= 3
    gone = reached(near) if connected else near
    assert np.array_equal(found.pixels[..., 3] == 0, gone)
    assert (found.pixels[..., 3][~gone] == 255).all()
    assert np.array_equal(found.pixels[..., :3], pixels)


def test_soft_edges_fade_with_the_colour() -> None:
    ramp = np.repeat(np.linspace(255, 60, 40).astype(np.uint8)[None, :, None], 3, axis=2)
    alpha = done(ramp, Clear(tolerance=4, softness=20)).pixels[0, :, 3].astype(int)
    assert alpha[0] == 0 and alpha[-1] == 255 and (np.diff(alpha) >= 0).all()
    assert ((alpha > 0) & (alpha < 255)).sum() > 3


def test_points_and_adjustments() -> None:
    grey = np.array([[(30, 40, 50), (200, 210, 220), (115, 125, 135)]], np.uint8)
    found = done(grey, CurvePoints(black="#1e2832", white="#c8d2dc")).pixels
    assert found[0].tolist() == [[0, 0, 0], [255, 255, 255], [128, 128, 128]]
    assert np.array_equal(done(grey, Adjust()).pixels, grey)
    assert (done(grey, Adjust(brightness=20)).pixels > grey).all()
    flat = done(grey, Adjust(saturation=-100)).pixels
    assert np.ptp(flat.astype(int), axis=2).max() <= 1
    less = done(grey, Adjust(contrast=-50)).pixels.astype(int)
    assert np.ptp(less[..., 0]) == pytest.approx(np.ptp(grey[..., 0].astype(int)) / 2, abs=2)
    off = Adjust(brightness=50, on=False)
    assert np.array_equal(done(grey, off).pixels, grey)
    inks = np.array([[(0, 0, 0, 0), (255, 255, 255, 255)]], np.uint8)
    assert (done(inks, Adjust(brightness=30), space=Space.CMYK).pixels[0, 1] < 255).all()


def test_crops_cut_pixels_and_size(job: Faced) -> None:
    pixels = np.arange(20 * 30 * 3, dtype=np.uint16).reshape(20, 30, 3).astype(np.uint8)
    crop = Crop(left=3, right=2, top=1, bottom=4)
    assert np.array_equal(done(pixels, crop).pixels, pixels[1:16, 3:28])
    with pytest.raises(BadInput, match="leaves nothing"):
        done(pixels, Crop(left=20, right=15))
    art = job.artworks[0].replace(width=10, height=8, edits=(crop.replace(on=True),))
    box = artwork_box(job.replace(artworks=(art,)))
    assert box is not None and (box.width, box.height) == pytest.approx((5, 3))


def test_colours_are_given_inks() -> None:
    """A named colour gets exactly the inks that are typed; far ones stay as the profile says."""
    pixels = np.array([[(230, 180, 20), (20, 90, 40)]], np.uint8)
    plain = Converter(Space.RGB, None, shipped_profile())(pixels)
    work = ColourWork(
        recoloured=(Recolour(colours=("#e6b414",), magenta=30, yellow=100),),
        gains=(-50, 0, 0, 20),
    )
    found = work.given(plain, lambda: pixels)
    assert found[0, 0].tolist() == [0, 76, 255, 0]
    wanted = np.clip(np.rint(plain[0, 1] * np.array([0.5, 1, 1, 1.2])), 0, 255)
    assert found[0, 1].tolist() == wanted.tolist()
