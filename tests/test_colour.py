"""Colour against LittleCMS at 16 bits."""

from __future__ import annotations

import io
from pathlib import Path

import imagecodecs
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from PIL import Image, ImageCms

from conftest import artwork_of
from farbe.art.artwork import Artwork, Space
from farbe.art.profiles import shipped_profile, srgb_profile
from farbe.distinct import distinct
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.job import Conversion, Intent, Numbers
from farbe.model.layer import COLOUR, WHITE_UNDER
from farbe.render.piece import job_converter
from farbe.separate.colour import Converter, check_cmyk_profile, converter_for
from farbe.separate.grid import Grid
from farbe.separate.place import PlacedArtwork
from farbe.separate.plates import Separation
from farbe.separate.tones import Screen


def random_colours(count: int = 50_000) -> np.ndarray:
    return np.random.default_rng(7).integers(0, 256, (1, count, 3), dtype=np.uint8)


@pytest.mark.parametrize(
    ("intent", "code"), [(Intent.PERCEPTUAL, 0), (Intent.RELATIVE, 1), (Intent.ABSOLUTE, 3)]
)
def test_agrees_with_littlecms_at_16_bits(intent: Intent, code: int) -> None:
    colours = random_colours()
    wide = colours.astype(np.uint16) * 257
    flags = imagecodecs.CMS.FLAGS.NOOPTIMIZE | imagecodecs.CMS.FLAGS.NOCACHE
    judged = imagecodecs.cms_transform(
        wide, srgb_profile(), shipped_profile(), colorspace="rgb", outcolorspace="cmyk",
        intent=code, flags=flags,
    )  # fmt: skip
    wanted = np.rint(np.asarray(judged, float) / 257)
    found = Converter(Space.RGB, None, shipped_profile(), intent=intent, black_point=False)(colours)
    worst = np.abs(found.astype(float) - wanted).max(axis=2)
    assert np.quantile(worst, 0.999) <= 2


def test_a_colour_is_the_same_whenever_it_is_met() -> None:
    colours = random_colours()
    shared = Converter(Space.RGB, None, shipped_profile())
    first = shared(colours)
    assert np.array_equal(shared(colours), first)
    assert np.array_equal(shared(colours[:, ::-1]), first[:, ::-1])
    assert np.array_equal(shared._convert(colours), first)


def test_paper_white_prints_as_nothing_and_white_ink_lies_there() -> None:
    alpha = np.zeros((30, 40), np.uint8)
    alpha[4:26, 4:36] = 255
    art = artwork_of(alpha, (255, 255, 255))
    separation = Separation(
        placed=PlacedArtwork(art, (40, 30), (40, 30)),
        layers=(WHITE_UNDER, COLOUR),
        converter=Converter(Space.RGB, None, shipped_profile()),
        grid=Grid(300, 300),
        piece=(),
    )
    white, *inks = separation.plates(0, 30)
    assert max(int(ink.max()) for ink in inks) == 0
    assert white[15, 20] == 255
    assert white[4:26, 4:36].sum() < alpha.sum()


def test_grey_and_cmyk_artwork() -> None:
    grey = np.linspace(0, 255, 64).astype(np.uint8).reshape(1, 64, 1)
    inks = Converter(Space.GREY, None, shipped_profile())(grey)
    assert inks[0, -1].max() == 0
    assert inks[0, 0, 3] > 150
    cmyk = np.random.default_rng(1).integers(0, 256, (3, 5, 4), dtype=np.uint8)
    assert np.array_equal(Converter(Space.CMYK, None, shipped_profile())(cmyk), cmyk)


def test_the_shipped_profile_is_a_press_profile() -> None:
    check_cmyk_profile(shipped_profile(), "shipped")
    back = ImageCms.buildTransform(
        io.BytesIO(shipped_profile()), io.BytesIO(srgb_profile()), "CMYK", "RGB", 1
    )
    solid = {
        ink: ImageCms.applyTransform(Image.new("CMYK", (1, 1), ink), back).getpixel((0, 0))
        for ink in [(255, 0, 0, 0), (0, 255, 0, 0), (0, 0, 255, 0), (0, 0, 0, 255)]
    }
    red, green, blue = (np.argmin([solid[i][c] for i in list(solid)[:3]]) for c in range(3))
    assert (red, green, blue) == (0, 1, 2)
    assert max(solid[(0, 0, 0, 255)]) < 80
    with pytest.raises(BadInput, match="CMYK printer profile"):
        check_cmyk_profile(srgb_profile(), "srgb.icc")


def test_photograph_and_flat_conversions_are_mixed(job: Faced) -> None:
    """Half flat lies half way between the two; at either end it is the one alone."""
    rng = np.random.default_rng(3)
    art = Artwork(rng.integers(0, 256, (20, 20, 3), dtype=np.uint8), Space.RGB, None, None)

    def inks(flat: float) -> np.ndarray:
        conversion = Conversion(intent=Intent.PERCEPTUAL, flat_intent=Intent.ABSOLUTE, flat=flat)
        of = job.replace(conversion=conversion)
        return job_converter(of, art, shipped_profile())(art.pixels).astype(int)

    photo, flat = (
        Converter(Space.RGB, None, shipped_profile(), intent=intent)(art.pixels).astype(int)
        for intent in (Intent.PERCEPTUAL, Intent.ABSOLUTE)
    )
    assert np.array_equal(inks(0), photo) and np.array_equal(inks(100), flat)
    assert not np.array_equal(photo, flat)
    assert np.abs(inks(50) - (photo + flat) / 2).max() <= 1


@pytest.mark.parametrize("numbers", list(Numbers))
def test_cmyk_pictures_of_the_printers_own_profile_keep_their_numbers(numbers: Numbers) -> None:
    """A profile written anew on another day is the same one; black alone stays so in any."""
    pixels = np.array([[(0, 0, 0, 200), (120, 60, 20, 0)]], np.uint8)
    own = shipped_profile()
    later = own[:24] + bytes(12) + own[36:]
    other = next(Path("/usr/share").glob("**/ghostscript/**/default_cmyk.icc")).read_bytes()

    def inks(icc: bytes) -> np.ndarray:
        art = Artwork(pixels, Space.CMYK, None, icc)
        made = converter_for(art, own, intent=Intent.RELATIVE, black_point=True, numbers=numbers)
        return np.asarray(made(pixels))

    assert np.array_equal(inks(later), pixels)
    found = inks(other)
    assert found[0, 0].tolist() == [0, 0, 0, 200]
    assert (found[0, 1] == pixels[0, 1]).all() == (numbers is Numbers.KEEP)


@settings(max_examples=60)
@given(arrays(np.uint32, st.integers(0, 60), elements=st.integers(0, 40)))
def test_distinct_values_are_those_that_occur(values: np.ndarray) -> None:
    assert distinct(values).tolist() == sorted(set(values.tolist()))


def test_what_a_screen_shows_is_what_littlecms_makes_of_it() -> None:
    """Colours met before or not, in any order, come out as converted one by one."""
    screen = Screen(Space.RGB, srgb_profile(), shipped_profile())
    plain = ImageCms.buildTransform(
        io.BytesIO(srgb_profile()), io.BytesIO(srgb_profile()), "RGB", "RGB",
        ImageCms.Intent.RELATIVE_COLORIMETRIC,
    )  # fmt: skip
    for colours in (random_colours(4000), random_colours(9000)[:, ::-1]):
        picture = Image.fromarray(np.ascontiguousarray(colours))
        assert np.array_equal(screen(colours), np.asarray(plain.apply(picture)))
