"""Artworks on film: little of it is used, and they are as far apart as the gap says."""

from __future__ import annotations

import math
import random
from collections.abc import Iterator
from itertools import combinations, product
from pathlib import Path

import numpy as np
import pytest
import rectpack
from PIL import Image, ImageDraw
from shapely import affinity
from shapely.geometry import Polygon

from conftest import some
from farbe.art.artwork import Artwork
from farbe.checks.check import Facts
from farbe.checks.filmrules import artworks_keep_off
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.packboxes import pack_boxes
from farbe.layout.packing import Strip, pack_shapes
from farbe.layout.rolls import roll_of_face
from farbe.model.roll import FilmPlace, Packing, Roll
from farbe.render.footprints import footprint_of, ganged
from farbe.render.trueshapes import true_shape

PER_MM = 300 / 25.4


def wedge(path: Path, width: float, height: float) -> Polygon:
    """A triangle with a right angle, two of which fill a rectangle; mm around its middle, y up."""
    wide, high = round(width * PER_MM), round(height * PER_MM)
    picture = Image.new("RGBA", (wide, high))
    corners = [(0, 0), (0, high - 1), (wide - 1, high - 1)]
    ImageDraw.Draw(picture).polygon(corners, fill=(180, 60, 40, 255))
    picture.save(path, dpi=(300, 300))
    left, right, low, top = -wide / 2, wide / 2, -high / 2, high / 2
    return Polygon([(x / PER_MM, y / PER_MM) for x, y in ((left, top), (left, low), (right, low))])


@pytest.mark.long
@pytest.mark.parametrize("size", [(28.1, 20.1), (40.6, 13.4), (25.0, 31.9)])
@pytest.mark.parametrize("gap", [0.0, 1.0, 2.5])
def test_true_shapes_keep_the_gap(
    job: Faced, store: ArtStore, tmp_path: Path, gap: float, size: tuple[float, float]
) -> None:
    shape = wedge(tmp_path / "wedge.png", *size)
    art = store.add_artwork(tmp_path / "wedge.png")
    mask = footprint_of(job.replace(artworks=(art,)), art, store)
    spots = pack_shapes([mask], [0] * 14, Strip(90, 2000, gap, turning=True))
    lying = [
        affinity.translate(affinity.rotate(shape, spot.turned, origin=(0, 0)), spot.x, spot.y)
        for spot in spots
    ]
    apart = min(one.distance(other) for one, other in combinations(lying, 2))
    # But for a pixel of the picture.
    assert apart >= gap - 1.1 / PER_MM, apart
    assert max(one.intersection(other).area for one, other in combinations(lying, 2)) < 1e-6
    assert min(one.bounds[0] for one in lying) > -0.05
    assert max(one.bounds[2] for one in lying) < 90.05
    # They interlock: less film than their rectangles would take.
    assert len({spot.turned for spot in spots}) > 1


@pytest.mark.parametrize("seed", some(range(4), 0))
def test_mixed_shapes_of_odd_sizes_do_not_overlap(
    job: Faced, store: ArtStore, tmp_path: Path, seed: int
) -> None:
    """Laid as a job lays them; judged by the polygons that were drawn."""
    random = np.random.default_rng(seed)
    shapes, arts = {}, []
    for number in range(4):
        path = tmp_path / f"{number}.png"
        shape = wedge(path, *random.uniform(15, 60, 2).round(2))
        arts.append(store.add_artwork(path).replace(quantity=12))
        shapes[arts[-1].key] = shape
    gap = float(random.choice([0.0, 1.5]))
    roll = Roll(width=300, gap=gap, packing=Packing.SHAPES, turning=True)
    film = roll_of_face(ganged(job.replace(artworks=tuple(arts), medium=roll, bleed=0.0), store))
    lying = [
        affinity.translate(
            affinity.rotate(shapes[place.artwork], place.turned, origin=(0, 0)), place.x, place.y
        )
        for place in film.places
    ]
    assert len(lying) == 48
    pairs = list(combinations(lying, 2))
    assert max(one.intersection(other).area for one, other in pairs) < 0.05
    assert min(one.distance(other) for one, other in pairs) >= gap - 1.1 / PER_MM


#: What an order is made of: the widths and heights that its rectangles have, mm.
MIXES = {
    "any": ((20, 250), (20, 250)), "small": ((15, 60), (15, 60)),
    "flat": ((150, 400), (10, 40)), "large": ((200, 500), (100, 400)),
}  # fmt: skip


def shelves(sizes: list[tuple[float, float]], strip: Strip) -> Iterator[float]:
    """Lengths that packers by shelves take, upright, lying or as given; in order of height."""
    ways = {"as given": lambda a, b: (a, b)}
    if strip.turning:
        ways |= {
            "up": lambda a, b: (min(a, b), max(a, b)),
            "down": lambda a, b: (max(a, b), min(a, b)),
        }
    for way, best in product(ways.values(), (False, True)):
        lying = [way(*s) if way(*s)[0] <= strip.width else way(*s)[::-1] for s in sizes]
        rows: list[list[float]] = []
        for wide, high in sorted(lying, key=lambda s: (-s[1], -s[0])):
            fits = [row for row in rows if row[0] + strip.gap + wide <= strip.width + 1e-9]
            if fits:
                row = min(fits, key=lambda r: strip.width - r[0]) if best else fits[0]
                row[0] += strip.gap + wide
            else:
                rows.append([wide, high])
        yield sum(high for _, high in rows) + strip.gap * (len(rows) - 1)


def others(sizes: list[tuple[float, float]], strip: Strip) -> Iterator[float]:
    """Lengths that the packers of a library take."""
    gap = math.ceil(strip.gap * 100)
    for way, sort, turning in product(
        (rectpack.SkylineBl, rectpack.MaxRectsBl, rectpack.MaxRectsBssf,
         rectpack.GuillotineBssfSas),
        (rectpack.SORT_AREA, rectpack.SORT_LSIDE, rectpack.SORT_SSIDE, rectpack.SORT_NONE),
        {False, strip.turning},
    ):  # fmt: skip
        packer = rectpack.newPacker(pack_algo=way, sort_algo=sort, rotation=turning)
        packer.add_bin(round(strip.width * 100) + gap, round(strip.longest * 100) + gap)
        for wide, high in sizes:
            packer.add_rect(math.ceil(wide * 100) + gap, math.ceil(high * 100) + gap)
        packer.pack()
        if len(packer.rect_list()) == len(sizes):
            yield max(y + high for _, _, y, _, high, _ in packer.rect_list()) / 100 - strip.gap


@pytest.mark.long
@pytest.mark.parametrize("mix", some(MIXES, "any"))
@pytest.mark.parametrize("turning", some([True, False], True))
def test_rectangles_take_as_little_film_as_others_find(mix: str, turning: bool) -> None:
    """At most 5 % over the best of some forty packers, whatever is ordered."""
    chance = random.Random(mix)
    for count, kinds in product((3, 8, 40), (1, 3, 40)):
        of = [tuple(round(chance.uniform(*side), 1) for side in MIXES[mix]) for _ in range(kinds)]
        sizes = [chance.choice(of) for _ in range(count)]
        strip = Strip(chance.choice([520.0, 590.0]), 40_000.0, chance.choice([0.0, 3.0]), turning)
        spots = pack_boxes(sizes, strip)
        own = 0.0
        lying = []
        for spot in spots:
            wide, high = sizes[spot.item][:: -1 if spot.turned else 1]
            own = max(own, spot.y + high / 2)
            lying.append(
                (spot.x - wide / 2, spot.y - high / 2, spot.x + wide / 2, spot.y + high / 2)
            )
        assert sorted(spot.item for spot in spots) == list(range(count))
        assert {spot.sheet for spot in spots} == {0}
        left, bottom, right, _ = np.array(lying).T
        assert left.min() > -1e-6 and bottom.min() > -1e-6 and right.max() < strip.width + 1e-6
        for one, other in combinations(lying, 2):
            apart = max(other[0] - one[2], one[0] - other[2], other[1] - one[3], one[1] - other[3])
            assert apart > strip.gap - 1e-6
        best = min((*shelves(sizes, strip), *others(sizes, strip)))
        assert own <= 1.05 * best + 1e-6, (count, kinds, own, best)


def test_what_comes_too_near_by_hand_is_said(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    """Two triangles whose rectangles overlap; judged by the distance of what was drawn."""
    shape = wedge(tmp_path / "wedge.png", 40.0, 30.0)
    art = store.add_artwork(tmp_path / "wedge.png").replace(quantity=2)
    far = affinity.rotate(shape, 180, origin=(0, 0))
    for apart, codes in (
        (6.0, set()), (4.2, set()), (3.6, {"nearer-than-gap"}), (0.5, {"nearer-than-gap"}),
        (-2.0, {"artworks-meet"}),
    ):  # fmt: skip
        x = next(x for x in np.arange(-10, 60, 0.02)
                 if _apart(shape, affinity.translate(far, x, 0)) >= apart)  # fmt: skip
        roll = Roll(
            width=200, packing=Packing.HAND, gap=4.0, side=5, lead=10,
            places=(FilmPlace(artwork=art.key, x=60, y=40),
                    FilmPlace(artwork=art.key, x=round(60 + float(x), 3), y=40, turned=180)),
        )  # fmt: skip
        of = job.replace(artworks=(art,), medium=roll, bleed=0.0)
        assert {c.code for c in artworks_keep_off(Facts(of, store))} == codes, apart
        # In the lead lies the empty corner alone, or what is printed.
        for y, turned in ((24.2, 0), (24.2, 180), (26.0, 0)):
            lone = roll.replace(places=(FilmPlace(artwork=art.key, x=60, y=y, turned=turned),))
            drawn = affinity.rotate(shape, turned, origin=(0, 0))
            found = {c.code for c in artworks_keep_off(Facts(of.replace(medium=lone), store))}
            assert ("beyond-film" in found) is (y + drawn.bounds[1] < 10)


def _apart(one: Polygon, other: Polygon) -> float:
    """Distance in mm; negative where they lie on each other."""
    met = one.intersection(other).area
    return -math.sqrt(met) if met else one.distance(other)


def test_a_small_copy_decides_nothing(
    job: Faced, store: ArtStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Of a picture of which a small copy is kept, a line that the copy lost is covered still."""
    picture = Image.new("RGBA", (400, 400))
    ImageDraw.Draw(picture).line([(0, 200), (399, 200)], fill=(20, 20, 20, 255), width=1)
    picture.save(tmp_path / "hair.png", dpi=(254, 254))
    art = store.add_artwork(tmp_path / "hair.png")
    of = job.replace(artworks=(art,))
    monkeypatch.setattr(Artwork, "seen", property(lambda self: self.pixels[::7, ::7]))
    shape = true_shape(of, art, store)
    assert shape.cell == 1.0
    left, bottom, right, top = shape.area.bounds
    assert (left, right) == pytest.approx((-20, 20), abs=0.6)
    assert bottom <= -0.1 and top >= 0.0 and top - bottom <= 2.0
