"""Film from a roll: packing, sheets, marks, transfers on their garments."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import tifffile
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from shapely.geometry import box

from conftest import small_art
from farbe.checks.check import Check, Facts
from farbe.checks.rules import run_checks
from farbe.checks.weight import Weight
from farbe.estimate.estimate import estimate
from farbe.estimate.steps import steps
from farbe.files.handoff import hand_off, hand_off_sheets
from farbe.files.store import ArtStore
from farbe.layout.beside import beside
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.layout.packboxes import pack_boxes
from farbe.layout.packing import Mask, Spot, Strip, TooLarge, pack_shapes
from farbe.layout.pockets import quarter_turns
from farbe.layout.rolls import film_length, place_size, sheets
from farbe.model.base import BadInput
from farbe.model.medium import Bed
from farbe.model.placing import Placing
from farbe.model.roll import FilmPlace, Garment, Packing, Roll
from farbe.model.treatment import Limit
from farbe.optics.proof import proof_picture
from farbe.plan.recipes import recipe, with_recipe
from farbe.press.machine import TestPress
from farbe.queue.store import Queue
from farbe.queue.work import add_job
from farbe.render.bed import job_bed
from farbe.render.footprints import ganged
from farbe.render.piecetile import job_tile
from farbe.render.shared import artwork_bed

FILM = Strip(width=300, longest=5000, gap=3, turning=True)
SIDES = st.floats(8, 140)


def laid_box(size: tuple[float, float], spot: Spot, grow: float = 0.0):  # type: ignore[no-untyped-def]
    wide, high = size[::-1] if spot.turned % 180 else size
    return box(
        spot.x - wide / 2 - grow, spot.y - high / 2 - grow,
        spot.x + wide / 2 + grow, spot.y + high / 2 + grow,
    )  # fmt: skip


@given(
    st.lists(st.tuples(SIDES, SIDES), min_size=1, max_size=25),
    st.floats(0, 9), st.booleans(), st.floats(150, 900),
)  # fmt: skip
@settings(max_examples=20)
def test_rectangles_keep_their_gap(
    sizes: list[tuple[float, float]], gap: float, turning: bool, longest: float
) -> None:
    strip = Strip(200, longest, gap, turning)
    spots = pack_boxes(sizes, strip)
    assert sorted(spot.item for spot in spots) == list(range(len(sizes)))
    assert all(not spot.turned for spot in spots) or turning
    film = box(-0.01, -0.01, 200.01, longest + 0.01)
    for i, one in enumerate(spots):
        assert film.covers(laid_box(sizes[one.item], one))
        for other in spots[i + 1 :]:
            if other.sheet == one.sheet:
                apart = laid_box(sizes[one.item], one).distance(laid_box(sizes[other.item], other))
                assert apart >= gap - 0.011


def blob(kind: int, wide: int, high: int) -> Mask:
    """An ellipse, a corner, an L, a ring, or all of the rectangle."""
    y, x = np.mgrid[0:high, 0:wide] + 0.5
    far = ((x - wide / 2) / (wide / 2)) ** 2 + ((y - high / 2) / (high / 2)) ** 2
    shapes = [
        far < 1, x / wide + y / high < 1, (y > high * 0.65) | (x < wide * 0.3),
        (far < 1) & (far > 0.5), np.ones((high, wide), bool),
    ]  # fmt: skip
    return np.asarray(shapes[kind % len(shapes)], np.bool_)


def cells_of(mask: Mask, spot: Spot) -> np.ndarray:
    """Middles of what a laid shape covers, in mm (n, 2)."""
    turned = np.rot90(mask, spot.turned // 90)[::-1]
    rows, columns = np.nonzero(turned)
    high, wide = turned.shape
    return np.stack([columns + 0.5 - wide / 2 + spot.x, rows + 0.5 - high / 2 + spot.y], axis=1)


@given(
    st.lists(st.tuples(st.integers(0, 4), st.integers(6, 40), st.integers(6, 40)),
             min_size=1, max_size=10),
    st.integers(0, 7), st.booleans(), st.integers(80, 400),
)  # fmt: skip
@settings(max_examples=25)
def test_true_shapes_keep_their_gap(
    kinds: list[tuple[int, int, int]], gap: int, turning: bool, longest: int
) -> None:
    """Against a picture of the film on which every pair is measured."""
    masks = [blob(*kind) for kind in kinds]
    spots = pack_shapes(masks, list(range(len(masks))), Strip(120, longest, gap, turning))
    assert sorted(spot.item for spot in spots) == list(range(len(masks)))
    for i, one in enumerate(spots):
        own = cells_of(masks[one.item], one)
        assert own.min() >= 0
        assert own[:, 0].max() <= 120
        assert own[:, 1].max() <= longest
        for other in spots[i + 1 :]:
            theirs = cells_of(masks[other.item], other)
            apart = np.maximum(own.min(0) - theirs.max(0), theirs.min(0) - own.max(0)).max()
            # Boxes that are far apart hold nothing that is near.
            if other.sheet == one.sheet and apart <= gap + 1:
                near = (np.abs(own - np.clip(own, theirs.min(0), theirs.max(0))) <= gap + 1).all(1)
                far = own[near][:, None] - theirs[None]
                if not len(far):
                    continue
                # Cells are squares: nearest edges, not middles.
                off = np.maximum(np.abs(far) - 1.0, 0.0)
                assert (off**2).sum(axis=2).min() >= gap**2 - 1e-6
                assert (np.abs(far).max(axis=2) >= 1.0 - 1e-6).all()


def test_shapes_take_less_film_than_their_rectangles() -> None:
    masks = [blob(kind, 90, 70) for kind in (1, 2)]
    kinds = [i % 2 for i in range(30)]
    shapes = pack_shapes(masks, kinds, FILM)
    boxes = pack_boxes([(90.0, 70.0)] * 30, FILM)
    length = {
        name: max(cells_of(masks[kinds[s.item]], s)[:, 1].max() for s in spots)
        for name, spots in (("shapes", shapes), ("boxes", boxes))
    }
    assert length["shapes"] < 0.85 * length["boxes"]


def test_what_is_larger_than_a_sheet_is_named() -> None:
    with pytest.raises(TooLarge, match="item 1"):
        pack_boxes([(10, 10), (301, 301)], FILM)
    assert pack_boxes([(400, 200)], FILM)[0].turned == 90
    with pytest.raises(TooLarge):
        pack_boxes([(400, 200)], Strip(300, 5000, 3, turning=False))


# jobs on a roll


@pytest.fixture
def gang(job: Faced, store: ArtStore, tmp_path: Path) -> Faced:
    """Two artworks of different sizes, seven transfers in all, on narrow film."""
    other = store.add_artwork(small_art(tmp_path / "other.png", 52, 90))
    arts = (job.artworks[0].replace(width=30.0, height=20.0, quantity=4),
            other.replace(width=13.0, height=22.5, quantity=3))  # fmt: skip
    film = Roll(width=80, side=4, lead=12, trail=6, gap=2, packing=Packing.BOXES)
    made = with_recipe(job, recipe("transfer on dark"), surface=True)
    return ganged(made.replace(artworks=arts, medium=film, bleed=0.0, placing=Placing()), store)


def test_the_film_holds_each_artwork_as_it_is_alone(
    gang: Faced, store: ArtStore, tmp_path: Path
) -> None:
    """The file's pixels at each place are those of a job with that artwork only, mirrored."""
    assert gang.roll is not None
    assert len(gang.roll.places) == 7
    bed = job_bed(gang, store)
    length = film_length(gang)
    assert bed.frame.width == 80
    assert bed.frame.height == length
    whole = bed.rows(0, bed.size[1])
    assert whole is not None
    left = whole.copy()
    for place, lain in zip(laid(gang), gang.roll.places, strict=True):
        of = place.of
        tile = job_tile(of, store, bed.grid)
        wide, high = tile.size
        column, row = bed.frame.corner(place.x, place.y, (wide, high))
        part = whole[row : row + high, column : column + wide]
        assert (part == tile.rows(0, high)).all()
        left[row : row + high, column : column + wide] = 0
        half = place_size(gang, lain)[0] / 2
        assert place.x - half >= 4 - 1e-6
        assert place.x + half <= 76 + 1e-6
    assert not left.any()
    # Nothing in the margins, lead and trail.
    pixel = bed.grid.per_mm_y
    assert not whole[-int(12 * pixel) :].any()
    assert not whole[: int(6 * pixel)].any()
    ticket = hand_off(gang.job, store, tmp_path)
    assert ticket.medium == "roll"
    assert ticket.bed_height == pytest.approx(length)
    assert [run.name for run in ticket.runs] == ["artwork"]
    assert sum(ticket.runs[0].ink_ml.values()) == pytest.approx(
        sum(use.ml for use in estimate(gang, store).inks), rel=0.03
    )


def test_transfers_read_right_on_every_garment(
    gang: Faced, store: ArtStore, tmp_path: Path
) -> None:
    """Pressed, each is its artwork the right way round, on the garment's own colour."""
    dark, red = "#20232b", "#6a1f24"
    order = gang.replace(
        garments=(Garment(colour=dark, count=4), Garment(colour=red, name="red", size="L", count=3))
    )
    hand_off(order.job, store, tmp_path)
    press = TestPress()
    ticket = press.take(tmp_path)
    press.print_run("artwork", lambda *_: None)
    assert len(press.bed.pieces) == 7
    for number, place in enumerate(laid(order)):
        of = place.of
        for garment, colour in enumerate((dark, red)):
            seen = press.piece_picture("pressed", number, garment)
            proof = proof_picture(of, store, pixels=max(seen.shape[:2]), surface=colour)
            turned = np.rot90(proof, (4 - quarter_turns(of)) % 4)
            as_laid, mirrored = (
                np.asarray(Image.fromarray(np.ascontiguousarray(p)).resize(seen.shape[1::-1]))
                for p in (turned, turned[:, ::-1])
            )
            good, bad = likeness(seen, as_laid), likeness(seen, mirrored)
            assert good > 0.9
            assert good > bad
    with pytest.raises(BadInput, match="no such garment"):
        press.piece_picture("pressed", 0, 5)
    words = [step.detail for step in steps(order)]
    assert "3 × red L" in words
    assert ticket.garments[1].count == 3


def likeness(one: np.ndarray, other: np.ndarray) -> float:
    a, b = (p.astype(float) - p.mean() for p in (one, other))
    return float((a * b).sum() / np.sqrt((a * a).sum() * (b * b).sum()))


def test_sheets_follow_each_other(gang: Faced, store: ArtStore, tmp_path: Path) -> None:
    assert gang.roll is not None
    short = ganged(gang.replace(medium=gang.roll.replace(longest=48)), store)
    parts = [Faced(part) for part in sheets(short.job)]
    assert len(parts) > 1
    assert sum(len(part.roll.places) for part in parts if part.roll) == 7
    assert film_length(short) == pytest.approx(sum(film_length(part) for part in parts))
    assert all(film_length(part) <= 48 + 1e-6 for part in parts)
    tickets = hand_off_sheets(short.job, store, tmp_path / "out")
    assert len(tickets) == len(parts)
    assert (tmp_path / "out" / "sheet-2" / "ticket.json").exists()
    queue = Queue(tmp_path / "queue")
    first = add_job(queue, short.job, store)
    assert [e.number for e in queue.entries()] == list(range(first, first + len(parts)))
    with pytest.raises(BadInput, match="wider film"):
        ganged(gang.replace(medium=gang.roll.replace(width=30, side=10)), store)


def test_sheets_that_became_empty_are_left_out(
    gang: Faced, store: ArtStore, tmp_path: Path
) -> None:
    """All that lay on them was moved: the others are handed off, and queued, as they lie."""
    assert gang.roll is not None
    short = ganged(gang.replace(medium=gang.roll.replace(longest=48)), store)
    assert short.roll is not None
    full = sheets(short.job)
    spread = tuple(place.replace(sheet=2 * place.sheet + 1) for place in short.roll.places)
    moved = short.replace(medium=short.roll.replace(places=spread))
    parts = sheets(moved.job)
    assert [part.name for part in parts] == [part.name for part in full]
    assert [part.medium for part in parts] == [part.medium for part in full]
    tickets = hand_off_sheets(moved.job, store, tmp_path / "moved")
    wanted = hand_off_sheets(short.job, store, tmp_path / "out")
    # A PDF says when it was made.
    bare = [[run.replace(files=()) for one in of for run in one.runs] for of in (tickets, wanted)]
    assert bare[0] == bare[1] and all(run.ink_ml for run in bare[0])
    for number in range(1, len(full) + 1):
        one, other = (
            tifffile.imread(tmp_path / of / f"sheet-{number}" / "artwork.tif")
            for of in ("moved", "out")
        )
        assert one.any() and np.array_equal(one, other)
    add_job(queue := Queue(tmp_path / "queue"), moved.job, store)
    assert len(queue.entries()) == len(full)
    # One sheet alone is as one film.
    last = short.replace(medium=short.roll.replace(
        places=tuple(place.replace(sheet=3) for place in short.roll.places if place.sheet == 0)
    ))  # fmt: skip
    (ticket,) = hand_off_sheets(last.job, store, tmp_path / "last")
    assert [run.height_px for run in ticket.runs] == [run.height_px for run in wanted[0].runs]


def test_what_lies_wrong_is_said_and_mended(gang: Faced, store: ArtStore) -> None:
    def found(job: Faced) -> dict[str, Check]:
        return {check.code: check for check in run_checks(Facts(job, store))}

    assert gang.roll is not None
    assert not [c for c in found(gang).values() if c.weight is Weight.STOP]
    lain = gang.roll.places

    def with_(*changed: FilmPlace, **fields: object) -> Faced:
        return gang.replace(medium=gang.roll.replace(places=changed or lain, **fields))  # type: ignore[union-attr]

    on_top = with_(lain[0].replace(x=lain[1].x, y=lain[1].y), *lain[1:], packing=Packing.HAND)
    beyond = with_(lain[0].replace(x=2.0), *lain[1:])
    for wrong, code in (
        (on_top, "artworks-meet"), (beyond, "beyond-film"), (with_(*lain[1:]), "not-on-film"),
        (gang.replace(printer=gang.printer.replace(bed_width=70)), "film-too-wide"),
    ):  # fmt: skip
        check = found(wrong)[code]
        assert check.weight is Weight.STOP
        if check.fix is not None:
            assert code not in found(check.fix.mend(wrong))
    pale = Garment(colour="#f4e9c8", count=9)
    order = gang.replace(garments=(Garment(colour="#20232b", count=1), pale))
    assert "garments-without-transfer" in found(order)
    colour_only = order.replace(stack=order.stack[:1])
    assert "garment-needs-white" in found(colour_only)
    thin = order.stack[1].replace(treatments=(Limit(percent=25),))
    assert "garment-shows" in found(order.replace(stack=(order.stack[0], thin)))


def test_jobs_share_a_film_one_behind_the_other(
    gang: Faced, store: ArtStore, tmp_path: Path
) -> None:
    one, two = map(Faced, beside((gang.job, gang.replace(name="Second").job)))
    assert (
        film_length(one) == pytest.approx(film_length(two)) == pytest.approx(2 * film_length(gang))
    )
    ticket = hand_off(one.job, store, tmp_path, others=(two.job,))
    assert len(ticket.pockets) == 14
    assert len({(p.x, p.y) for p in ticket.pockets}) == 14
    raster = artwork_bed((one, two), store)
    rows = raster.rows(0, raster.size[1])
    alone_ = job_bed(gang, store)
    own = alone_.rows(0, alone_.size[1])
    assert rows is not None
    assert own is not None
    assert int(rows.sum(dtype=np.int64)) == pytest.approx(
        2 * int(own.sum(dtype=np.int64)), rel=1e-3
    )
    with pytest.raises(BadInput, match="some on the bed"):
        beside((gang.job, gang.replace(medium=Bed()).job))
