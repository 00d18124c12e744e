"""Strokes that a choke spares, against analytic ones and a brute-force middle line."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from conftest import some
from farbe.kept import Kept
from farbe.model.treatment import Choke
from farbe.separate import middle, spare, strokes, treat, within
from farbe.separate.blocks import Block, blocks_near, even_parts, marked_blocks
from farbe.separate.choke import Plate, choke
from farbe.separate.grid import Grid, disc, pixel_side
from farbe.separate.middle import LEAST_COVER
from farbe.separate.spare import far_from, spare_reach, spared

#: Sub-pixels along a side from which coverage is counted.
FINE = 8
SIDE = 5.0


def drawn(inside, grid: Grid) -> Plate:  # type: ignore[no-untyped-def]
    """Coverage of what ``inside`` says of places in mm around the middle."""
    wide, high = round(SIDE * grid.per_mm_x), round(SIDE * grid.per_mm_y)
    y, x = np.mgrid[0 : high * FINE, 0 : wide * FINE]
    mm_x = (x + 0.5) / FINE / grid.per_mm_x - SIDE / 2
    mm_y = (y + 0.5) / FINE / grid.per_mm_y - SIDE / 2
    fine = np.asarray(inside(mm_x, mm_y), np.float32)
    cover = cv2.resize(fine, (wide, high), interpolation=cv2.INTER_AREA)
    return np.rint(np.asarray(cover) * 255).astype(np.uint8)


def along(x: npt.NDArray[np.float64], y: npt.NDArray[np.float64], degrees: float):  # type: ignore[no-untyped-def]
    turn = math.radians(degrees)
    return x * math.cos(turn) + y * math.sin(turn), y * math.cos(turn) - x * math.sin(turn)


def leaning(size: tuple[int, int], *, apart: int, least: int) -> Image.Image:
    """Lines of many shades and widths."""
    page = Image.new("L", size)
    draw = ImageDraw.Draw(page)
    for at in range(0, size[0] + 500, apart):
        draw.line((at, 0, at - 400, size[1]), fill=255 - at % 60, width=least + at % 5)
    return page


def stroke(width: float, degrees: float, grid: Grid) -> Plate:
    def inside(x, y):  # type: ignore[no-untyped-def]
        far, off = along(x, y, degrees)
        return (np.abs(off - 0.013) < width / 2) & (np.abs(far) < 2.0)

    return drawn(inside, grid)


def width_of(plate: Plate, degrees: float, grid: Grid) -> float:
    """Mean width in mm of a stroke through the middle."""
    y, x = np.indices(plate.shape)
    far, _ = along(
        (x + 0.5) / grid.per_mm_x - SIDE / 2, (y + 0.5) / grid.per_mm_y - SIDE / 2, degrees
    )
    return float(plate[np.abs(far) < 1.2].sum()) / 255 / (grid.per_mm_x * grid.per_mm_y) / 2.4


def parts(plate: Plate, level: int = 64) -> int:
    return cv2.connectedComponents((plate >= level).astype(np.uint8))[0] - 1


@pytest.mark.parametrize(
    "grid",
    some([Grid(600, 600), Grid(600, 900), Grid(360, 720)], Grid(360, 720)),
    ids=str,
)
@pytest.mark.parametrize("by", some([0.1, 0.2], 0.1))
def test_strokes_of_any_width_and_angle_keep_what_is_promised(grid: Grid, by: float) -> None:
    pixel = 1.0 / min(grid.per_mm_x, grid.per_mm_y)
    for width in (0.06, 0.1, 0.16, 0.24, 0.33, 0.5):
        for degrees in (0, 17, 45, 71, 90):
            plate = stroke(width, degrees, grid)
            for least in (0.1, 0.15):
                found = spared(plate, choke(plate, by, grid), by, least, grid)
                wanted = max(width - 2 * by, min(width, least))
                # Either edge is within half a pixel.
                off = (width_of(found, degrees, grid) - wanted) / pixel
                assert abs(off) < 1.0, (width, degrees, least, off)
                assert (found <= plate).all()


@pytest.mark.long
@pytest.mark.parametrize("grid", [Grid(600, 600), Grid(720, 1440)], ids=str)
@pytest.mark.parametrize("by", [0.1, 0.25])
def test_strokes_stay_whole_at_joints_tips_and_where_widths_change(grid: Grid, by: float) -> None:
    def two_squares(x, y):  # type: ignore[no-untyped-def]
        return (np.abs(np.abs(x) - 1.5) < 0.7) & (np.abs(y) < 0.7) | (
            (np.abs(y - 0.1) < 0.065) & (np.abs(x) < 1.5)
        )

    def letter(x, y):  # type: ignore[no-untyped-def]
        # Two legs, a bar across, and a crossing.
        leg = np.abs(np.abs(x) - 1.0) < 0.08
        return (leg & (np.abs(y) < 1.8)) | ((np.abs(y) < 0.1) & (np.abs(x) < 1.9))

    def needle(x, y):  # type: ignore[no-untyped-def]
        return (np.abs(y) < 0.25 * (2.2 - x) / 4.4) & (x > -2.2)

    for shape in (two_squares, letter, needle):
        plate = drawn(shape, grid)
        found = spared(plate, choke(plate, by, grid), by, 0.1, grid)
        assert parts(plate) == 1
        assert parts(found) == 1, shape.__name__
    # The needle's point is not blunted: it is thinner than what is spared.
    tip = np.flatnonzero(drawn(needle, grid).max(axis=0) >= 128)[-1]
    assert np.flatnonzero(found.max(axis=0) >= 128)[-1] >= tip - 2


@pytest.mark.parametrize(
    "grid",
    some([Grid(600, 600), Grid(600, 900), Grid(360, 720)], Grid(360, 720)),
    ids=str,
)
@pytest.mark.parametrize("by", some([0.12, 0.2], 0.12))
def test_corners_are_choked_as_corners(grid: Grid, by: float) -> None:
    """Of acute ones too no white is left up to their points, but of points as slim as strokes."""

    def wedge(degrees: float, turn: float) -> Plate:
        slope = math.tan(math.radians(degrees / 2))

        def inside(x, y):  # type: ignore[no-untyped-def]
            far, off = along(x, y, turn)
            return (np.abs(off) < (far + 1.5) * slope) & (far < 1.1)

        return drawn(inside, grid)

    y, x = np.indices(wedge(60, 0).shape)
    for turn in (0, 13, 31, 45, 77, 90):
        far, off = along(
            (x + 0.5) / grid.per_mm_x - SIDE / 2, (y + 0.5) / grid.per_mm_y - SIDE / 2, turn
        )
        point = np.hypot(far + 1.5, off) < 0.8
        for degrees in (20, 60, 65, 70, 80, 90):
            plate = wedge(degrees, turn)
            plain = choke(plate, by, grid)
            found = spared(plate, plain, by, 0.1, grid)
            if degrees > 20:
                added = float((found.astype(int) - plain)[point].sum()) / 255
                assert added < 1.0, (degrees, turn)
            else:
                ends = [float(far[plane >= 100].min()) for plane in (plate, found)]
                assert ends[1] - ends[0] < 3 / min(grid.per_mm_x, grid.per_mm_y), turn


def test_broad_shapes_tints_and_soft_edges_are_choked_as_before() -> None:
    grid, by = Grid(600, 600), 0.15
    disc = drawn(lambda x, y: np.hypot(x, y) < 2, grid)
    square = drawn(lambda x, y: np.maximum(np.abs(x - y), np.abs(x + y)) < 2, grid)
    y, x = np.indices(disc.shape)
    glow = np.clip(300 - 6.0 * np.hypot(x - 59, y - 59), 0, 255).astype(np.uint8)
    for plate in (disc, square, disc // 3, glow, 255 - glow):
        plain = choke(plate, by, grid)
        # But for a few pixels in the points of corners.
        assert (spared(plate, plain, by, 0.1, grid) != plain).sum() <= 24


def test_the_middle_line_agrees_with_brute_force() -> None:
    """Kept is what lies within half the least width of the places farthest from the edge."""
    grid, by, least = Grid(600, 600), 0.2, 0.12
    curve = drawn(lambda x, y: np.abs(np.hypot(x + 0.4, y) - 1.6) < 0.11, grid)
    found = spared(curve, choke(curve, by, grid), by, least, grid)
    y, x = np.indices(curve.shape)
    radius = np.hypot((x + 0.5) / grid.per_mm_x - SIDE / 2 + 0.4,
                      (y + 0.5) / grid.per_mm_y - SIDE / 2)  # fmt: skip
    off = np.abs(radius - 1.6) - least / 2
    pixel = 1.0 / grid.per_mm_x
    assert (found[off < -0.75 * pixel] > 127).all()
    assert (found[off > 0.75 * pixel] < 128).all()


@pytest.mark.parametrize("grid", [Grid(600, 600), Grid(600, 900), Grid(720, 360)])
def test_what_lies_beyond_a_disc_is_told_as_by_the_disc_itself(
    grid: Grid, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Thin lines of any direction, blots, noise, and what reaches the ends of the plate."""
    rng = np.random.default_rng(7)
    lines = np.zeros((420, 700), np.uint8)
    for _ in range(60):
        x, y, dx, dy = (int(n) for n in rng.integers((0, 0, -90, -90), (700, 420, 90, 90)))
        level, width = int(rng.integers(60, 256)), int(rng.integers(1, 12))
        cv2.line(lines, (x, y), (x + dx, y + dy), level, width, cv2.LINE_AA)
    noise = rng.integers(0, 256, lines.shape).astype(np.uint8)
    for plate in (lines, noise, np.maximum(lines, cv2.blur(noise, (9, 9)))):
        for inside, radius in ((0.06, 0.12), (0.1, 0.35)):
            kept = np.asarray(cv2.erode(plate, disc(inside, grid)), np.uint8)
            grown = np.asarray(cv2.dilate(kept, disc(radius, grid)), int)
            wanted = plate.astype(int) - np.minimum(2 * grown, 255) > LEAST_COVER
            found = far_from(kept, plate, disc(radius, grid))
            assert np.array_equal(found > 0, wanted) and set(np.unique(found)) <= {0, 255}
            assert wanted.any() or plate is not lines
    # Where little is far each pixel of it is looked at by itself, up to the corners of the plate.
    kept = np.zeros_like(lines)
    kept[:300, 5:480] = noise[:300, 5:480] | 128
    looked, real = list[int](), within._most_around
    monkeypatch.setattr(within, "LOOKS", 3000)
    monkeypatch.setattr(
        within, "_most_around", lambda *given: (looked.append(given[-1].size), real(*given))[1]
    )
    for count in (1, 3, 40, 400):
        plate, kernel = kept.copy(), disc(0.35, grid)
        plate[rng.integers(0, 320, count), rng.integers(470, 500, count)] = 200
        plate[0, 0] = plate[-1, -1] = plate[-1, 0] = 255
        grown = np.asarray(cv2.dilate(kept, kernel), int)
        wanted = plate.astype(int) - np.minimum(2 * grown, 255) > LEAST_COVER
        assert np.array_equal(far_from(kept, plate, kernel) > 0, wanted) and wanted.sum() >= 2
        # However many there are, no more than so many looks are taken at once.
        assert max(looked) * np.count_nonzero(kernel) <= 3000 or max(looked) == 1
    assert len(looked) > 8
    # Of a disc of so many pixels not even few are.
    looked.clear()
    plate[::40, 699] = 255
    assert far_from(kept, plate, disc(4.0, grid))[::40, 699].all() and not looked


def test_blocks_hold_all_that_is_marked_once() -> None:
    """Of marks here and there, in blocks of several sizes, cut to them or whole."""
    rng = np.random.default_rng(3)
    for about, whole in ((40, False), (64, True), (1000, False), (1000, True)):
        for count in (0, 1, 9, 200):
            there = np.zeros((int(rng.integers(30, 300)), int(rng.integers(30, 300))), np.uint8)
            there[rng.integers(0, len(there), count), rng.integers(0, there.shape[1], count)] = 9
            times = np.zeros(there.shape, int)
            downwards, across = (set(even_parts(0, long_, about)) for long_ in there.shape)
            for block in marked_blocks(there, about, whole=whole):
                times[block.place] += 1
                rows, columns = np.nonzero(there[block.place])
                if whole:
                    assert block[:2] in downwards and block[2:] in across and len(rows)
                else:
                    # A block is no larger than it has to be.
                    assert rows.min() == columns.min() == 0
                    assert there[block.place].shape == (rows.max() + 1, columns.max() + 1)
                around = block.around((7, 5), there.shape)
                own = there[around.place][block.within(around).place]
                assert np.array_equal(own, there[block.place])
            assert times.max() <= 1 and (times[there > 0] == 1).all()
    assert Block(3, 9, 2, 8).around((4, 2), (10, 11)) == Block(1, 10, 0, 11)


@pytest.mark.parametrize("grid", [Grid(600, 600), Grid(600, 900)], ids=str)
def test_what_is_spared_does_not_depend_on_parts(
    grid: Grid, monkeypatch: pytest.MonkeyPatch
) -> None:
    """All of a plate at once, and parts of it that nothing divides evenly; strips of it."""
    rng, by, least = np.random.default_rng(11), 0.12, 0.1
    plate = np.zeros((330, 410), np.uint8)
    for _ in range(30):
        x, y, dx, dy = (int(n) for n in rng.integers((0, 0, -80, -80), (410, 330, 80, 80)))
        cv2.line(plate, (x, y), (x + dx, y + dy), 255, int(rng.integers(1, 14)), cv2.LINE_AA)
        corners = np.array((x, y)) + rng.integers(-40, 40, (3, 2))
        cv2.fillPoly(plate, [corners.astype(np.int32)], (255,), cv2.LINE_AA)
    choked = choke(plate, by, grid)
    monkeypatch.setattr(spare, "BLOCK", 1000)
    whole = spared(plate, choked, by, least, grid)
    assert (whole > choked).sum() > 1000
    for block in (61, 150):
        monkeypatch.setattr(spare, "BLOCK", block)
        assert np.array_equal(spared(plate, choked, by, least, grid), whole)
    reach = spare_reach(by, least, grid)[1]
    for first in range(reach, 330 - reach - 9, 11):
        seen = slice(first - reach, first + 9 + reach)
        strip = spared(plate[seen], choked[seen], by, least, grid, unwanted=(reach, reach))
        assert np.array_equal(strip[reach : reach + 9], whole[first : first + 9])
    # Of a strip of which nothing is wanted nothing need be spared.
    few, ends = slice(100, 110), (3 * reach, 0)
    left = spared(plate[few], choked[few], by, least, grid, unwanted=ends)
    assert np.array_equal(left, choked[few])


@settings(max_examples=60)
@given(
    seed=st.integers(0, 10**6), by=st.floats(0.03, 0.3), least=st.sampled_from((0.05, 0.1, 0.15)),
    grid=st.sampled_from((Grid(150, 150), Grid(200, 280), Grid(300, 420))),
)  # fmt: skip
def test_at_its_sides_a_plate_ends_as_if_nothing_lay_beyond(
    seed: int, by: float, least: float, grid: Grid
) -> None:
    """As a picture has it, which is cut to its artwork and has room around that."""
    rng, page = np.random.default_rng(seed), Image.new("L", (90, 110))
    draw = ImageDraw.Draw(page)
    for _ in range(9):
        ends = tuple(rng.integers(-20, 120, 4).tolist())
        draw.line(ends, fill=int(rng.choice((90, 255))), width=int(rng.integers(1, 7)))
    # Rows go on beyond a strip; columns do not.
    rows = 40
    plate = np.asarray(page)
    wide = np.pad(plate, ((0, 0), (25, 25)))
    found, beside = (spared(one, choke(one, by, grid), by, least, grid) for one in (plate, wide))
    assert np.array_equal(found[rows:-rows], beside[rows:-rows, 25:-25])
    assert not beside[:, :25].any() and not beside[:, -25:].any()


@pytest.mark.parametrize("grid", [Grid(600, 600), Grid(600, 900), Grid(720, 360)], ids=str)
def test_distances_to_edges_agree_with_brute_force(grid: Grid) -> None:
    """The least, over all pixels, of the way there and how far in that one its edge is."""
    rng, cap = np.random.default_rng(5), 0.18
    blot = cv2.resize(rng.random((5, 6)), (26, 22), interpolation=cv2.INTER_CUBIC)
    cover = np.rint(np.clip((blot - 0.35) * 4, 0, 1) * 255).astype(np.uint8)
    unit = middle.unit_of(grid)
    around = 14
    padded = np.pad(cover, around)
    wanted = np.full(cover.shape, cap)
    for dy in range(-around, around + 1):
        for dx in range(-around, around + 1):
            length = math.hypot(dx / grid.per_mm_x, dy / grid.per_mm_y)
            pixel = length / math.hypot(dx, dy) if dx or dy else pixel_side(grid)
            seen = padded[around + dy :, around + dx :][: cover.shape[0], : cover.shape[1]]
            edge = np.where(seen == 255, np.inf, (seen / 255 - 0.5) * pixel)
            wanted = np.minimum(wanted, length + edge)
    found = middle.distances(cover, cap, grid) * unit
    # Both ways and edges are whole units; the latter along pixels of whole units.
    assert np.abs(found - wanted).max() < 2 * unit


@pytest.mark.long
@pytest.mark.parametrize("grid", [Grid(600, 600), Grid(600, 900), Grid(720, 360)], ids=str)
def test_another_choke_asks_for_the_same_middle_lines(
    grid: Grid, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Pictures keep them; what they show is what is printed."""
    plate, asked = np.asarray(leaning((700, 500), apart=23, least=2)), list[str]()

    def counted(name: str) -> None:
        real = getattr(strokes, name)
        monkeypatch.setattr(strokes, name, lambda *how: (asked.append(name), real(*how))[1])

    counted("distances")
    counted("ridges")
    square = grid.dpi_x == grid.dpi_y
    # Strips of a picture have so many rows around them.
    assert spare_reach(0.123, 0.1, grid) == spare_reach(0.149, 0.1, grid)
    for number, by in enumerate((0.123, 0.124, 0.149, 0.151, 0.249, 0.251)):
        choked = choke(plate, by, grid)
        shown = spared(plate, choked, by, 0.1, grid, kept=True)
        # The first of a few hundredths of a mm, and the first beyond them; for which distances of
        # square pixels are there, unless they are so far that they are found in several steps.
        assert ("ridges" in asked) is (number in (0, 3, 4, 5))
        assert ("distances" in asked) is (number in ((0, 4, 5) if square else (0, 3, 4, 5)))
        assert np.array_equal(shown, spared(plate, choked, by, 0.1, grid))
        assert (shown > choked).any()
        asked.clear()


@pytest.mark.parametrize("by", [0.3, 0.1])
@pytest.mark.parametrize("grid", [Grid(600, 600), Grid(720, 360)], ids=str)
def test_of_strokes_that_differ_little_little_is_made_anew(
    grid: Grid, by: float, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Pictures use what is kept of others, and have what is made without that."""
    page = leaning((500, 400), apart=19, least=2)
    ImageDraw.Draw(page).rectangle((150, 0, 350, 400), fill=255)
    levels, looked, rng = np.array(page), list[int](), np.random.default_rng(8)
    distances = strokes.distances

    def counted(cover: Plate, *more: Any) -> middle.Units:
        looked.append(cover.size)
        return distances(cover, *more)

    for change in range(20):
        looked.clear()
        with monkeypatch.context() as patch:
            patch.setattr(strokes, "distances", counted)
            kept = strokes._kept_spine(levels.copy(), by, 0.1, grid)
        assert sum(looked) < levels.size / 2 if change else sum(looked) == levels.size
        anew = strokes._spine(levels, by, 0.1, grid)
        for name in ("levels", "cover", "far", "share", "joints"):
            assert np.array_equal(getattr(kept, name), getattr(anew, name)), name
        assert anew.share.any()
        assert anew.joints.any()
        top, left = rng.integers(0, 390), rng.integers(0, 490)
        levels[top : top + 3, left : left + 4] = rng.integers(0, 256, (3, 4))


@pytest.mark.parametrize("grid", [Grid(300, 300), Grid(300, 420)], ids=str)
def test_of_a_choked_plate_that_differs_little_little_is_made_anew(
    grid: Grid, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Wherever it differs, at its ends and sides, too."""
    page = leaning((500, 600), apart=13, least=1)
    ImageDraw.Draw(page).ellipse((150, 200, 350, 300), fill=255)
    plate, looked, rng = np.array(page), list[int](), np.random.default_rng(5)
    monkeypatch.setattr(treat, "_CHOKED", Kept(9))
    drawn_back, how = treat.choke, Choke(by=0.15, least=0.1)

    def counted(some: Plate, *more: Any) -> Plate:
        looked.append(some.size)
        return drawn_back(some, *more)

    monkeypatch.setattr(treat, "choke", counted)

    def nothing(*_: object) -> Plate:
        return np.zeros_like(plate)

    ends = treat.halo(how, grid)
    ground = treat.StripContext(
        grid, (500, 600), 0, nothing, nothing, nothing, (250.0, 300.0), ends, kept=True
    )
    for change in range(16):
        looked.clear()
        shown = treat.treated(plate.copy(), how, ground)
        assert sum(looked) < plate.size / 2 if change else sum(looked) == plate.size
        printed = treat.treated(plate, how, replace(ground, kept=False))
        assert np.array_equal(shown[ends:-ends], printed[ends:-ends])
        assert (printed > drawn_back(plate, how.by, grid)).any()
        top, left = rng.integers(0, 590), rng.choice((0, 40, 250, 490))
        plate[top : top + 9, left : left + 7] = rng.integers(0, 2, (9, 7)) * 255


@settings(max_examples=200)
@given(
    seed=st.integers(0, 999), share=st.sampled_from((0.0, 0.001, 0.03)), about=st.integers(1, 40),
    reach=st.tuples(st.integers(0, 9), st.integers(0, 9)),
    wanted=st.tuples(*(st.integers(0, 30) for _ in range(4))),
)  # fmt: skip
def test_blocks_hold_all_that_is_wanted_near_what_is_marked(
    seed: int, share: float, about: int, reach: tuple[int, int], wanted: tuple[int, ...]
) -> None:
    there = (np.random.default_rng(seed).random((60, 70)) < share).astype(np.uint8)
    within = Block(wanted[0], 60 - wanted[1], wanted[2], 70 - wanted[3])
    met = np.zeros(there.shape, int)
    for block in blocks_near(there, within, about, reach):
        assert block.size > 0
        met[block.place] += 1
    square = np.ones((2 * reach[1] + 1, 2 * reach[0] + 1), np.uint8)
    near = np.zeros_like(there)
    near[within.place] = cv2.dilate(there, square)[within.place]
    assert (met <= 1).all() and (met >= near).all()
    met[within.place] = 0
    assert not met.any() and not list(blocks_near(there, Block(9, 5, 0, 9), about, reach))


def test_a_choke_of_any_size_is_done() -> None:
    """Distances are numbers of 16 bits, and no more is told than these hold."""
    plate = np.zeros((40, 300), np.uint8)
    plate[:, 120:] = 255
    plate[18:21, :] = 255
    for by in (5.0, 12.0, 50.0):
        grid = Grid(1200, 1200)
        found = spared(plate, choke(plate, by, grid), by, 0.1, grid)
        assert (found <= plate).all() and found[19, 40:80].all()
