"""Choke against brute force."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from conftest import some
from farbe.separate.choke import choke
from farbe.separate.grid import Grid

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


@settings(max_examples=30, deadline=None)
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
