"""Choke against brute force."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from conftest import some
from farbe.separate import choke as chokes
from farbe.separate import masks, within
from farbe.separate.choke import choke, spread
from farbe.separate.grid import Grid, disc
from farbe.separate.masks import any_within
from farbe.separate.within import half_widths, least_within, least_within_each, most_within

GRIDS = [Grid(300, 300), Grid(600, 1200), Grid(720, 360)]


def distances_in_pixels(solid: np.ndarray, distance: float, grid: Grid) -> np.ndarray:
    """For every solid pixel: how far, in pixels along that line, it lies beyond the choke.

    Every pair of pixels is looked at, so this shares nothing with the code under test.
    """
    padded = np.pad(solid, 1)
    empty = np.argwhere(~padded) - 1
    result = np.full(solid.shape, -1.0)
    for y, x in np.argwhere(solid):
        dy, dx = (empty[:, 0] - y).astype(float), (empty[:, 1] - x).astype(float)
        millimetres = np.hypot(dx / grid.per_mm_x, dy / grid.per_mm_y)
        pixels = np.hypot(dx, dy)
        result[y, x] = np.min(pixels * (1 - distance / millimetres))
    return result


@pytest.mark.parametrize("grid", GRIDS, ids=str)
@pytest.mark.parametrize("distance", some([0.05, 0.1, 0.137, 0.3], 0.137))
def test_hard_edges_move_by_the_euclidean_distance(grid: Grid, distance: float) -> None:
    y, x = np.mgrid[0:70, 0:64]
    solid = (x - 30) ** 2 / 27**2 + (y - 34) ** 2 / 31**2 < 1
    solid &= ~((x > 36) & (y > 30) & (y < 36))
    solid[2:9, 2:60] = True
    beyond = distances_in_pixels(solid, distance, grid)
    found = choke(np.where(solid, 255, 0).astype(np.uint8), distance, grid)
    # The edge lies where coverage passes one half; the oracle's edge half a pixel earlier.
    kept, gone = found >= 128, found < 128
    assert np.all(beyond[kept] >= 0.5 - 0.5)
    assert np.all(beyond[gone] <= 0.5 + 0.5)
    # And coverage itself is the part of the pixel that is left, to a quarter of a pixel.
    wanted = np.clip(beyond, 0, 1)
    assert np.abs(found / 255 - wanted).max() <= 0.26


@pytest.mark.parametrize("grid", GRIDS, ids=str)
def test_a_straight_soft_edge_keeps_its_shape(grid: Grid) -> None:
    ramp = np.clip(np.arange(60) - 20, 0, 10) * 25.5
    plate = np.tile(np.rint(ramp).astype(np.uint8), (40, 1))
    plate = np.pad(plate, ((30, 30), (0, 80)), mode="edge")
    moved = choke(plate, 6 / grid.per_mm_x, grid)
    middle = moved[50, :60].astype(int)
    assert np.abs(middle[26:] - plate[50, 20:54].astype(int)).max() <= 1


@settings(max_examples=30)
@given(
    arrays(np.uint8, (24, 31)),
    st.floats(0, 0.4),
    st.sampled_from(GRIDS),
)
def test_never_adds_and_more_takes_more(plate: np.ndarray, distance: float, grid: Grid) -> None:
    once = choke(plate, distance, grid)
    assert np.all(once <= plate)
    # The rim is laid in quarters, so only a whole step more is sure to take more.
    further = choke(plate, distance + 0.3 / min(grid.per_mm_x, grid.per_mm_y), grid)
    assert np.all(further <= once)


def test_zero_is_nothing() -> None:
    plate = np.arange(256, dtype=np.uint8).reshape(16, 16)
    assert np.array_equal(choke(plate, 0.0, GRIDS[0]), plate)


def around(plate: np.ndarray, kernel: np.ndarray, outside: int) -> np.ndarray:
    """All pixels under a kernel, one after the other: uint8 (pixels of the kernel, h, w)."""
    (high, wide), (ry, rx) = plate.shape, (side // 2 for side in kernel.shape)
    padded = np.pad(plate, ((ry, ry), (rx, rx)), constant_values=outside)
    places = np.argwhere(kernel)
    return np.array([padded[y : y + high, x : x + wide] for y, x in places])


@pytest.fixture
def small_parts(monkeypatch: pytest.MonkeyPatch) -> None:
    """Kernels of a few pixels are many, and plates are made in many parts."""
    for name, value in (("MANY", 4), ("ROWS", 7), ("COLUMNS", 10)):
        monkeypatch.setattr(within, name, value)


@settings(max_examples=60)
@given(
    arrays(np.uint8, (19, 23)),
    arrays(
        bool, st.tuples(st.integers(0, 3), st.integers(0, 4)).map(lambda s: (s[0] + 1, s[1] + 1))
    ),
    st.sampled_from([0, 40, 255]),
)
@pytest.mark.usefixtures("small_parts")
def test_the_least_and_the_most_within_any_kernel(
    plate: np.ndarray, quarter: np.ndarray, outside: int
) -> None:
    """With gaps in its rows, with rows without any, or with neither."""
    quarter[0, 0] = True
    right = np.vstack([quarter[:0:-1], quarter])
    kernel = np.hstack([right[:, :0:-1], right]).astype(np.uint8)
    seen = around(plate, kernel, outside)
    assert np.array_equal(least_within(plate, kernel, outside=outside), seen.min(axis=0))
    assert np.array_equal(most_within(plate, kernel), around(plate, kernel, 0).max(axis=0))
    halves = half_widths(kernel.tobytes(), kernel.shape)
    gaps = any(np.ptp(np.flatnonzero(row)) + 1 != row.sum() for row in kernel if row.any())
    assert (halves is None) is gaps
    lopsided = kernel.copy()
    lopsided[0, -1] ^= 1
    if lopsided.size > 1:
        assert half_widths(lopsided.tobytes(), lopsided.shape) is None


@settings(max_examples=60)
@given(
    st.tuples(st.integers(1, 30), st.integers(1, 200)),
    st.floats(0, 0.05),
    st.one_of(
        st.tuples(st.integers(0, 40), st.integers(0, 90)),
        st.lists(st.integers(-1, 9), min_size=1, max_size=6).filter(lambda rows: max(rows) >= 0),
    ),
    st.integers(0, 999),
)
@example((3, 200), 0.05, (1, 90), 0)
@example((30, 3), 0.05, (40, 2), 0)
@example((20, 64), 0.05, [3, -1, 9, 0], 0)
def test_masks_are_grown_bit_by_bit(
    size: tuple[int, int], share: float, reach: tuple[int, int] | list[int], seed: int
) -> None:
    """By discs that are larger than the mask, or of rows of any width; over whole words."""
    mask = np.where(np.random.default_rng(seed).random(size) < share, 255, 0).astype(np.uint8)
    mask[0, 0] = mask[-1, -1] = 255
    if isinstance(reach, tuple):
        ry, rx = reach
        y, x = np.mgrid[-ry : ry + 1, -rx : rx + 1]
        kernel = ((x / (rx + 0.3)) ** 2 + (y / (ry + 0.3)) ** 2 <= 1).astype(np.uint8)
    else:
        rows = np.array([*reach[:0:-1], *reach])
        across = np.abs(np.arange(-9, 10))
        kernel = (across <= rows[:, None]).astype(np.uint8)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(masks, "MANY", 0)
        grown = any_within(mask, kernel)
    assert np.array_equal(grown, around(mask, kernel, 0).max(axis=0))
    assert np.array_equal(any_within(mask, kernel), grown)


@settings(max_examples=40)
@given(
    arrays(np.uint8, (26, 33)),
    st.lists(st.floats(0, 1.0), min_size=1, max_size=4).map(sorted),
    st.sampled_from(GRIDS),
    st.sampled_from([0, 255]),
)
@pytest.mark.usefixtures("small_parts")
def test_discs_that_hold_each_other_are_looked_at_together(
    plate: np.ndarray, radii: list[float], grid: Grid, outside: int
) -> None:
    kernels = [disc(radius, grid) for radius in radii]
    halves = [half_widths(one.tobytes(), one.shape) for one in kernels]
    found = least_within_each(plate, [one for one in halves if one], outside=outside)
    for least, kernel in zip(found, kernels, strict=True):
        assert np.array_equal(least, around(plate, kernel, outside).min(axis=0))


@pytest.mark.parametrize("grid", GRIDS, ids=str)
@pytest.mark.parametrize("distance", [0.5, 1.1])
def test_a_large_choke_is_the_same_by_rows(
    grid: Grid, distance: float, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Soft edges, solids, and what one loses the other adds to what is empty."""
    y, x = np.mgrid[0:140, 0:170]
    away = np.hypot((x - 80) * 300 / grid.dpi_x, (y - 70) * 300 / grid.dpi_y)
    plate = np.clip(60 * (55 - away), 0, 255).astype(np.uint8)
    plate[10:30, 20:150] = np.arange(130) * 255 // 129
    found = []
    for many in (1 << 30, 1):
        monkeypatch.setattr(within, "MANY", many)
        monkeypatch.setattr(chokes, "MANY", many)
        chokes._discs.cache_clear()
        found.append((choke(plate, distance, grid), spread(plate, distance, grid)))
    chokes._discs.cache_clear()
    (choked, grown), by_rows = found
    assert choked.any() and grown.any() and not np.array_equal(choked, plate)
    assert np.array_equal(choked, by_rows[0]) and np.array_equal(grown, by_rows[1])
