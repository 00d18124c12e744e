"""Artworks laid by their true shapes are as far apart as the gap says, whatever their sizes."""

from __future__ import annotations

from itertools import combinations
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw
from shapely import affinity
from shapely.geometry import Polygon

from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.packing import Strip, pack_shapes
from farbe.layout.rolls import roll_of_face
from farbe.model.roll import Packing, Roll
from farbe.render.footprints import footprint_of, ganged

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


@pytest.mark.parametrize("seed", range(4))
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
