"""Sources and treatments of layers against brute force and closed forms."""

from __future__ import annotations

import math
from collections import deque
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from conftest import artwork_of
from farbe.art.artwork import Artwork, Space
from farbe.art.profiles import shipped_profile
from farbe.colour.lab import difference
from farbe.model.base import BadInput
from farbe.model.job import Intent
from farbe.model.layer import COLOUR, WHITE_UNDER, Join, Joined, Layer
from farbe.model.printer import LayerKind
from farbe.model.source import (
    ArtworkShape,
    AsLayer,
    ColourInk,
    PickedColours,
    PlateNamed,
    Region,
    Surround,
    Tones,
    WholePiece,
)
from farbe.model.treatment import (
    TREATMENTS,
    Choke,
    Curve,
    Dots,
    Ease,
    Feather,
    Grain,
    Harden,
    Holes,
    HoleShape,
    Limit,
    Pinholes,
    Shift,
    Specks,
    Spread,
    Treatment,
)
from farbe.separate.colour import converter_between
from farbe.separate.grid import Grid
from farbe.separate.inkwork import InkLimits
from farbe.separate.place import PlacedArtwork
from farbe.separate.plates import Separation
from farbe.separate.tones import lab_of

GRID = Grid(254, 381)
Plate = np.ndarray


def white(*treatments: Treatment, **fields: object) -> Layer:
    return WHITE_UNDER.replace(treatments=treatments, **fields)


def separation(artwork: Artwork, *layers: Layer, grid: Grid = GRID, **more: object) -> Separation:
    canvas = (artwork.width, artwork.height)
    frame = np.array([(0, 0), (canvas[0], 0), canvas, (0, canvas[1])], dtype=float)

    def pixels(ring: np.ndarray) -> np.ndarray:
        return ring * (grid.per_mm_x, -grid.per_mm_y) + np.array(canvas) / 2

    return Separation(
        placed=PlacedArtwork(artwork, canvas, canvas),
        layers=layers,
        converter=converter_between(Space.RGB, None, shipped_profile(), Intent.RELATIVE, True),
        grid=grid,
        piece=(frame,),
        clip=(frame,),
        profile=shipped_profile(),
        pixels=pixels,
        **more,  # type: ignore[arg-type]
    )


def plate_of(alpha: Plate, *treatments: Treatment, grid: Grid = GRID) -> Plate:
    made = separation(artwork_of(alpha), white(*treatments), grid=grid)
    return made.plates(0, alpha.shape[0])[0]


def scene(rng: np.random.Generator, width: int = 90, height: int = 140) -> Artwork:
    """Blobs with soft edges, holes, specks and many colours."""
    y, x = np.mgrid[0:height, 0:width]
    alpha = np.zeros((height, width))
    for _ in range(6):
        cx, cy, r = rng.uniform(0, width), rng.uniform(0, height), rng.uniform(3, 30)
        alpha = np.maximum(alpha, np.clip(r - np.hypot(x - cx, y - cy), 0, 1))
        cx, cy, r = rng.uniform(0, width), rng.uniform(0, height), rng.uniform(1, 8)
        alpha = np.minimum(alpha, np.clip(np.hypot(x - cx, y - cy) - r, 0, 1))
    colours = np.dstack([x * 255 // width, y * 255 // height, (x * y) % 256])
    pixels = np.dstack([colours, np.rint(alpha * 255)]).astype(np.uint8)
    return Artwork(pixels, Space.RGB, None, None)


TRIED: tuple[Treatment, ...] = (
    Choke(by=0.25), Choke(by=0.3, holes=0.05), Choke(by=0.2, least=0.15),
    Spread(by=0.2), Specks(size=0.6),
    Pinholes(size=0.6), Harden(at=40), Dots(), Dots(grain=Grain.NOISE, dot=0.2),
    Curve(points=((0, 10), (60, 30), (100, 90))), Limit(percent=70), Ease(),
    Holes(spare=0.8), Holes(shape=HoleShape.HEXAGON, angle=20, staggered=False),
    Shift(x=0.4, y=-0.7), Feather(by=0.6),
)  # fmt: skip


def test_the_strip_test_knows_every_treatment() -> None:
    assert {type(one) for one in TRIED} == set(TREATMENTS)


@given(st.integers(0, 10_000), st.lists(st.sampled_from(TRIED), min_size=1, max_size=3))
@settings(max_examples=60)
def test_strips_agree_whatever_is_done(seed: int, chosen: list[Treatment]) -> None:
    art = scene(np.random.default_rng(seed))
    made = separation(art, white(*chosen))
    whole = made.plates(0, art.height)[0]
    cuts = (0, 17, 64, 65, 128, art.height)
    strips = [made.plates(a, b)[0] for a, b in pairwise(cuts)]
    assert np.array_equal(np.concatenate(strips), whole)


masks = arrays(np.uint8, st.tuples(st.integers(3, 14), st.integers(3, 14)),
               elements=st.sampled_from([0, 0, 255]))  # fmt: skip


def islands(there: Plate, *, corners: bool) -> list[set[tuple[int, int]]]:
    """Connected pixels, found one by one."""
    left = {(int(r), int(c)) for r, c in np.argwhere(there)}
    found = []
    while left:
        queue, island = deque([left.pop()]), set()
        while queue:
            row, column = queue.popleft()
            island.add((row, column))
            for dr in (-1, 0, 1):
                for dc in (-1, 0, 1):
                    near = (row + dr, column + dc)
                    if near in left and (corners or not (dr and dc)):
                        left.remove(near)
                        queue.append(near)
        found.append(island)
    return found


def extent(island: set[tuple[int, int]]) -> tuple[float, float]:
    rows, columns = zip(*island, strict=True)
    return (
        (max(columns) - min(columns) + 1) / GRID.per_mm_x,
        (max(rows) - min(rows) + 1) / GRID.per_mm_y,
    )


@given(masks, st.sampled_from([0.1, 0.2, 0.35]))
def test_specks_and_pinholes_by_flood_fill(mask: Plate, size: float) -> None:
    wanted = mask.copy()
    for island in islands(mask > 0, corners=True):
        if max(extent(island)) <= size + 1e-6:
            for place in island:
                wanted[place] = 0
    assert np.array_equal(plate_of(mask, Specks(size=size)), wanted)
    holed = np.pad(255 - mask, 6, constant_values=255)
    filled = plate_of(holed, Pinholes(size=size))
    assert np.array_equal(filled, 255 - np.pad(wanted, 6))


@pytest.mark.long
@given(masks, st.floats(0.05, 0.4))
def test_spread_by_distances(mask: Plate, by: float) -> None:
    """Solid within the distance of any solid pixel, empty a pixel beyond."""
    padded = np.pad(mask, 8)
    found = plate_of(padded, Spread(by=by))
    solid = np.argwhere(padded) / (GRID.per_mm_y, GRID.per_mm_x)
    for row, column in np.ndindex(padded.shape):
        here = np.array([row / GRID.per_mm_y, column / GRID.per_mm_x])
        far = np.hypot(*(solid - here).T).min() if len(solid) else np.inf
        if far <= by - 1e-9:
            assert found[row, column] == 255
        elif far > by + 1.01 / GRID.per_mm_x + 1.01 / GRID.per_mm_y:
            assert found[row, column] == 0


def test_holes_inside_are_choked_by_their_own_distance() -> None:
    y, x = np.mgrid[0:240, 0:240]
    far = np.hypot(x - 119.5, y - 119.5)
    ring = np.where((far < 100) & (far > 40), 255, 0).astype(np.uint8)
    grid = Grid(254, 254)
    found = plate_of(ring, Choke(by=0.5, holes=0.1), grid=grid)
    row = np.flatnonzero(found[120] >= 128)
    # 10 pixels a mm: 5 off the outside, 1 off the inside.
    assert (row.min(), row.max()) == pytest.approx((19.5 + 5, 219.5 - 5), abs=1)
    inner = row[np.flatnonzero(np.diff(row) > 1)]
    assert inner[0] == pytest.approx(119.5 - 41, abs=1)


@pytest.mark.parametrize("tone", [0.02, 0.1, 0.25, 0.5, 0.77, 0.95])
@pytest.mark.parametrize("dots", [Dots(per_cm=20), Dots(grain=Grain.NOISE, dot=0.05)])
def test_dots_cover_as_much_as_the_tone(tone: float, dots: Dots) -> None:
    alpha = np.full((700, 700), round(tone * 255), np.uint8)
    found = plate_of(alpha, dots, grid=Grid(600, 600))
    assert set(np.unique(found)) <= {0, 255}
    assert found.mean() / 255 == pytest.approx(tone, abs=0.012)
    empty, solid = np.zeros((9, 9), np.uint8), np.full((9, 9), 255, np.uint8)
    assert not plate_of(empty, dots).any() and plate_of(solid, dots).all()


@pytest.mark.parametrize("shape", list(HoleShape))
@pytest.mark.parametrize("staggered", [False, True])
def test_holes_open_the_share_that_geometry_gives(shape: HoleShape, staggered: bool) -> None:
    holes = Holes(spacing=2.0, size=1.0, shape=shape, angle=13, staggered=staggered)
    solid = np.full((1500, 1500), 255, np.uint8)
    found = plate_of(solid, holes, grid=Grid(508, 508))
    hole = {HoleShape.ROUND: math.pi / 4, HoleShape.SQUARE: 1.0,
            HoleShape.HEXAGON: math.sqrt(3) / 2}[shape]  # fmt: skip
    cell = 4.0 * (math.sqrt(3) / 2 if staggered else 1.0)
    assert 1 - found.mean() / 255 == pytest.approx(hole / cell, rel=0.02)


def test_holes_spare_thin_lines_and_solid_regions() -> None:
    alpha = np.zeros((300, 300), np.uint8)
    alpha[:, :140], alpha[:, 200:206] = 255, 255
    region = Region(rings=(((-14, -5), (-6, -5), (-6, 5), (-14, 5)),))
    holes = Holes(spacing=1.2, size=0.7, spare=1.0, solid=region)
    found = plate_of(alpha, holes, grid=Grid(254, 254))
    assert (found[:, 200:206] == 255).all()
    assert (found[105:195, 15:85] == 255).all()
    assert found[:100, :130].mean() < 230


def test_feather_follows_the_normal_distribution() -> None:
    alpha = np.zeros((200, 400), np.uint8)
    alpha[:, 200:] = 255
    found = plate_of(alpha, Feather(by=2.0), grid=Grid(254, 254))[100]
    for column in (200, 205, 210, 220, 235):
        depth = (column + 0.5 - 200) / 10.0
        wanted = math.erf(depth / 1.0 / math.sqrt(2)) * 255
        assert found[column] == pytest.approx(wanted, abs=2)
    assert not found[:200].any()


@given(arrays(np.uint8, (12, 12)), st.floats(-0.9, 0.9), st.floats(-0.9, 0.9))
def test_shift_moves_and_brings_nothing_in(plate: Plate, x: float, y: float) -> None:
    found = plate_of(plate, Shift(x=x, y=y))
    right, up = round(x * GRID.per_mm_x), round(y * GRID.per_mm_y)
    for row, column in np.ndindex(plate.shape):
        r, c = row + up, column - right
        there = plate[r, c] if 0 <= r < 12 and 0 <= c < 12 else 0
        assert found[row, column] == there


@given(arrays(np.uint8, (6, 7)), st.integers(1, 99), st.integers(0, 100))
def test_pointwise_treatments(plate: Plate, at: int, percent: int) -> None:
    curve = Curve(points=((0, 100), (40, at), (100, 5)))
    hard = plate_of(plate, Harden(at=at))
    bent, least = plate_of(plate, curve), plate_of(plate, Limit(percent=percent))
    for place in np.ndindex(plate.shape):
        value = int(plate[place])
        assert hard[place] == (255 if value / 2.55 >= at - 1e-9 else 0)
        low, high = ((0, 100), (40, at)) if value / 2.55 < 40 else ((40, at), (100, 5))
        share = (value / 2.55 - low[0]) / (high[0] - low[0])
        assert bent[place] == pytest.approx((low[1] + share * (high[1] - low[1])) * 2.55, abs=0.51)
        assert least[place] == pytest.approx(value * percent / 100, abs=0.51)


def flat(colour: tuple[int, int, int], alpha: int = 255) -> Artwork:
    return artwork_of(np.full((8, 8), alpha, np.uint8), colour)


def test_ease_and_tones_follow_lightness() -> None:
    """L* of mid grey is 53.585 (sRGB), of black 0, of white 100."""
    assert lab_of([128, 128, 128])[0] == pytest.approx(53.585, abs=0.01)
    ease = Ease(dark=10, light=60, least=30, smooth=False)
    for colour, light in (((0, 0, 0), 0), ((128, 128, 128), 53.585), ((255, 255, 255), 100)):
        share = 0.3 + 0.7 * min(1.0, max(0.0, (light - 10) / 50))
        found = separation(flat(colour), white(ease)).plates(0, 8)[0]
        assert found[4, 4] == pytest.approx(share * 255, abs=2)
        dark = separation(flat(colour), white(source=Tones(start=80, full=20))).plates(0, 8)[0]
        assert dark[4, 4] == pytest.approx(255 * min(1, max(0, (80 - light) / 60)), abs=2)


#: Pairs with their difference from the authors' published test data.
PUBLISHED = (
    ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425),
    ((50, 3.1571, -77.2803), (50, 0, -82.7485), 2.8615),
    ((50, -1.3802, -84.2814), (50, 0, -82.7485), 1.0000),
    ((50, 2.5, 0), (73, 25, -18), 27.1492),
    ((50, 2.5, 0), (61, -5, 29), 22.8977),
    ((50, 2.5, 0), (56, -27, -3), 31.9030),
    ((50, 2.5, 0), (58, 24, 15), 19.4535),
    ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
)


@pytest.mark.parametrize(("one", "other", "wanted"), PUBLISHED)
def test_differences_are_the_published_ones(
    one: tuple[float, ...], other: tuple[float, ...], wanted: float
) -> None:
    assert difference(np.array(one), np.array(other)) == pytest.approx(wanted, abs=1e-4)
    assert difference(np.array(other), np.array(one)) == pytest.approx(wanted, abs=1e-4)


def test_sources_and_joins(tmp_path: object) -> None:
    pixels = np.zeros((20, 20, 4), np.uint8)
    pixels[:, :10] = (255, 255, 255, 255)
    pixels[:10, 10:] = (200, 30, 30, 255)
    art = Artwork(pixels, Space.RGB, None, None)
    extra = Artwork(np.full((20, 20, 1), 90, np.uint8), Space.GREY, None, None)
    named = {"matt": PlacedArtwork(extra, (20, 20), (20, 20))}
    red = PickedColours(colours=("#c81e1e",), tolerance=5, softness=0)

    def found(**fields: object) -> Plate:
        return separation(art, white(**fields), named=named).plates(0, 20)[0]

    there = pixels[..., 3]
    assert np.array_equal(found(source=ArtworkShape()), there)
    assert np.array_equal(found(source=WholePiece()), np.full((20, 20), 255))
    assert np.array_equal(found(source=Surround()), 255 - there)
    picked = found(source=red)
    assert picked[5, 15] == 255 and picked.sum() == 255 * 100
    inked = found(source=ColourInk())
    assert inked[5, 15] == 255 and not inked[:, :10].any()
    assert (found(source=PlateNamed(name="MATT")) == 90).all()
    assert not found(source=PlateNamed(name="absent")).any()
    but = found(source=ArtworkShape(), more=(Joined(join=Join.SUBTRACT, source=red),))
    assert np.array_equal(but, there - picked)
    both = found(source=WholePiece(), more=(Joined(join=Join.INTERSECT, source=red),))
    assert np.array_equal(both, picked)
    beside = found(source=red, more=(Joined(source=Surround()),))
    assert np.array_equal(beside, picked | 255 - there)
    # Any number of sources, in their order.
    matt = Joined(join=Join.SUBTRACT, source=PlateNamed(name="matt"))
    three = found(source=red, more=(Joined(source=Surround()), matt))
    assert np.array_equal(three, np.minimum(picked | 255 - there, 255 - 90))


def test_a_layer_comes_from_another_one() -> None:
    """After all that is done to that one; in a circle nothing is laid down."""
    pixels = np.zeros((40, 40, 4), np.uint8)
    pixels[8:32, 8:32] = (200, 30, 30, 255)
    art = Artwork(pixels, Space.RGB, None, None)
    base = white(Choke(by=0.1))
    varnish = Layer(kind=LayerKind.VARNISH, name="Varnish", source=AsLayer(name=base.name))
    made = replace(separation(art, base, varnish), stack=(base, varnish))
    below, above = made.plates(0, 40)
    assert np.array_equal(below, above) and 0 < below.sum() < 255 * 24 * 24
    assert np.array_equal(made.plates(10, 20)[1], above[10:20])
    circle = base.replace(source=AsLayer(name="Varnish"))
    turning = replace(separation(art, circle, varnish), stack=(circle, varnish))
    assert not any(plate.any() for plate in turning.plates(0, 40))


@pytest.mark.parametrize("how", [Harden(), Dots(per_cm=40), Dots(grain=Grain.NOISE, dot=0.2)])
def test_soft_edges_of_colour_are_hardened_all_inks_alike(how: Treatment) -> None:
    """The artwork's cover is treated: where there is ink at all it is the whole colour."""
    alpha = np.repeat(np.linspace(0, 255, 120).astype(np.uint8)[None], 60, axis=0)
    art = Artwork(np.dstack([np.full_like(alpha, level) for level in (200, 30, 30)] + [alpha]),
                  Space.RGB, None, None)  # fmt: skip
    plain = separation(art, COLOUR).plates(0, 60)
    solid = [int(plate[:, -1].max()) for plate in plain]
    hard = separation(art, COLOUR.replace(treatments=(how,))).plates(0, 60)
    there = hard[1] > 0.9 * solid[1]
    for plate, most in zip(hard, solid, strict=True):
        assert np.isin(plate[there], (most - 1, most, most + 1)).all()
    if isinstance(how, Harden):
        assert np.array_equal(there[0], alpha[0] >= 128)
    else:
        assert there.mean() == pytest.approx(0.5, abs=0.05)
    assert (hard[1][~there] < solid[1]).all()


def test_what_holes_spare_comes_from_the_artwork() -> None:
    pixels = np.zeros((200, 200, 4), np.uint8)
    pixels[...] = (40, 60, 200, 255)
    pixels[60:140, 60:140] = (200, 30, 30, 255)
    art = Artwork(pixels, Space.RGB, None, None)
    logo = PickedColours(colours=("#c81e1e",), tolerance=5, softness=0)
    holes = Holes(spacing=1.2, size=0.8)
    open_ = separation(art, white(holes)).plates(0, 200)[0]
    kept = separation(art, white(holes.replace(solid=logo))).plates(0, 200)[0]
    assert (kept[60:140, 60:140] == 255).all() and (open_[60:140, 60:140] < 255).any()
    outside = np.ones((200, 200), bool)
    outside[60:140, 60:140] = False
    assert np.array_equal(kept[outside], open_[outside])


@given(arrays(np.uint8, (5, 5, 4)), st.floats(100, 400))
def test_ink_limits_hold_and_keep_black(inks: Plate, total: float) -> None:
    found = InkLimits(total=total)(inks)
    assert (found.astype(int).sum(axis=2) <= total * 2.55 + 1e-6).all()
    assert np.array_equal(found[..., 3], inks[..., 3])
    fine = inks.astype(int).sum(axis=2) <= total * 2.55
    assert np.array_equal(found[fine], inks[fine])
    each = InkLimits(each=(50, 100, 100, 80))(inks)
    assert each[..., 0].max() <= 128 and each[..., 3].max() <= 204


def test_what_a_layer_cannot_be() -> None:
    for wrong, told in (
        (lambda: COLOUR.replace(source=WholePiece()), "cannot come from"),
        (lambda: COLOUR.replace(treatments=(Choke(),)), "cannot be treated"),
        (lambda: WHITE_UNDER.replace(kind=LayerKind.NAMED), "needs an ink"),
        (lambda: Ease().replace(light=5), "must lie above"),
        (lambda: Curve().replace(points=((50, 0), (20, 9))), "left to right"),
    ):
        with pytest.raises(BadInput, match=told):
            wrong()
