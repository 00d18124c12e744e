"""The first prediction against closed forms."""

from __future__ import annotations

import numpy as np
import pytest

from farbe.model.layer import COLOUR, WHITE_UNDER
from farbe.model.piece import Material, Reader, Surface
from farbe.optics.look import join, look, to_linear, white_film
from farbe.separate.colour import shipped_profile

PROFILE = shipped_profile()


def seen(layers, coverages, reader=Reader.FACE, surface="#102820"):  # type: ignore[no-untyped-def]
    plates = [np.full((2, 2), c, np.uint8) for c in coverages]
    return look(
        layers, plates, reader=reader, surface=Surface(colour=surface), profile=PROFILE
    )[0, 0].astype(int)  # fmt: skip


def test_hits_of_white_join_like_plates() -> None:
    r, t = white_film(1)
    assert r + t == pytest.approx(1)
    two, through = white_film(2)
    # Two equal plates without absorption: r2 = 2 r / (1 + r), Stokes 1862.
    assert two == pytest.approx(2 * r / (1 + r))
    assert two + through == pytest.approx(1)
    assert [white_film(n)[0] for n in range(1, 9)] == sorted(white_film(n)[0] for n in range(1, 9))
    assert float(join(r, t, 0.0)) == pytest.approx(r)
    assert float(join(0.0, 1.0, 0.37)) == pytest.approx(0.37)


def test_no_ink_shows_the_surface_and_white_hides_it() -> None:
    stack = (WHITE_UNDER, COLOUR)
    assert np.abs(seen(stack, (0, 0, 0, 0, 0)) - (16, 40, 32)).max() <= 1
    covered = seen((WHITE_UNDER.replace(hits=6), COLOUR), (255, 0, 0, 0, 0))
    assert covered.min() > 235


def test_order_matters_as_it_should() -> None:
    yellow = (255, 0, 0, 255, 0)
    behind = seen((WHITE_UNDER, COLOUR), yellow)
    hidden = seen((COLOUR, WHITE_UNDER), (0, 0, 255, 0, 255))
    assert behind[2] < behind[0] - 80
    assert hidden.max() - hidden.min() < 40
    through = look(
        (COLOUR, WHITE_UNDER),
        [np.full((1, 1), c, np.uint8) for c in (0, 0, 255, 0, 255)],
        reader=Reader.THROUGH,
        surface=Surface(material=Material.CLEAR),
        profile=PROFILE,
    )[0, 0].astype(int)
    assert through[2] < through[0] - 80


def test_colour_on_white_is_what_the_profile_says() -> None:
    import io

    from PIL import Image, ImageCms

    from farbe.separate.colour import srgb_profile

    inks = np.random.default_rng(2).integers(0, 256, (20, 20, 4), dtype=np.uint8)
    picture = look(
        (COLOUR,),
        [np.ascontiguousarray(inks[..., i]) for i in range(4)],
        reader=Reader.FACE,
        surface=Surface(colour="#ffffff"),
        profile=PROFILE,
    )
    proof = ImageCms.buildTransform(
        io.BytesIO(PROFILE), io.BytesIO(srgb_profile()), "CMYK", "RGB", 1
    )
    wanted = np.asarray(ImageCms.applyTransform(Image.fromarray(inks, "CMYK"), proof))
    assert np.abs(picture.astype(int) - wanted).max() <= 2
    assert to_linear("#ffffff") == pytest.approx((1, 1, 1))
