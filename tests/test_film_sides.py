"""Film with two sides: pairs, turned and loaded, side B laid where the lines of side A say."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from conftest import behind, kill_press, sided, small_art
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.edits.film import moved_pair
from farbe.estimate.steps import steps
from farbe.files.handoff import hand_off, hand_off_sheets
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.layout.rolls import film_length, is_laid, place_size, sheets
from farbe.model.base import BadInput
from farbe.model.face import Turn, Turning
from farbe.model.layer import COLOUR, WHITE_UNDER
from farbe.model.piece import Material, Surface
from farbe.model.placing import Placing
from farbe.model.roll import Roll, SideOffset
from farbe.press.client import Press, PressLine, press_of
from farbe.press.machine import TestPress
from farbe.queue.store import Queue, State
from farbe.queue.work import add_job, print_again, print_entry
from farbe.render.bed import job_bed
from farbe.render.footprints import ganged


@pytest.fixture
def banner(job: Faced, store: ArtStore, tmp_path: Path) -> Faced:
    """Three pairs of unlike sides, 40 × 26 mm, on film of 70 mm."""
    fronts = [store.add_artwork(small_art(tmp_path / f"a{i}.png", 60 + i, 40)) for i in range(3)]
    backs = [store.add_artwork(small_art(tmp_path / f"b{i}.png", 50 + i, 40)) for i in range(3)]
    sized = {"width": 40.0, "height": 26.0, "quantity": 1}
    made = job.replace(
        piece=job.piece.replace(surface=Surface(material=Material.TEXTILE), height=0.0),
        artworks=tuple(a.replace(**sized) for a in fronts), placing=Placing(), bleed=0.0,
        stack=(WHITE_UNDER, COLOUR), texts=(), table=None,
        medium=Roll(width=70, side=5, lead=14, trail=9, gap=6, line=4),
    )  # fmt: skip
    made = sided(
        made, stack=(WHITE_UNDER, COLOUR), artworks=tuple(a.replace(**sized) for a in backs)
    )
    return ganged(made, store)


@pytest.mark.parametrize("turn", Turn)
def test_the_other_side_comes_in_reverse_and_twice_is_the_first(banner: Faced, turn: Turn) -> None:
    of = banner.replace(comes_up=Turning(turn=turn))
    other = of.other
    assert other.other == of
    assert film_length(other) == pytest.approx(film_length(of))
    assert of.roll is not None
    assert other.roll is not None
    for one, back in zip(of.roll.places, other.roll.places, strict=True):
        assert one.y + back.y == pytest.approx(film_length(of))
        assert (one.artwork, one.behind) == (back.behind, back.artwork)
        assert back.turned == (180 if turn is Turn.SIDEWAYS else 0)
    # The last side A comes first.
    ys = [lain.y for lain in other.roll.places]
    assert ys == sorted(ys, reverse=True)


@pytest.mark.parametrize("turn", Turn)
@pytest.mark.parametrize("slip", [(0.0, 0.0), (1.4, -2.6)])
def test_sides_meet_to_a_pixel_however_the_film_was_loaded(
    banner: Faced, store: ArtStore, tmp_path: Path, turn: Turn, slip: tuple[float, float]
) -> None:
    of = banner.replace(comes_up=Turning(turn=turn))
    # Both sides show a solid area, whose edges are compared.
    of = behind(of.replace(stack=(solid(of),)), stack=(solid(of),))
    of = of.replace(stack=(*of.stack, COLOUR))
    hand_off(of.job, store, tmp_path)
    press = TestPress()
    press.slip = slip
    ticket = press.take(tmp_path)
    assert len(ticket.lines) == 3
    with pytest.raises(BadInput, match="not turned over"):
        press.print_run("artwork-back", lambda *_: None)
    with pytest.raises(BadInput, match="Side A is not done"):
        press.turn_over()
    press.print_run("artwork", lambda *_: None)
    press.turn_over()
    press.print_run("artwork-back", lambda *_: None)
    bed = press.bed
    assert bed.behind is not None
    front = next(f for f in bed.behind if f.kind == "white").coverage["white"]
    back = bed.on_pieces[0].coverage["white"]
    lying = np.roll(
        front[::-1], (-round(slip[1] * bed.scale), round(slip[0] * bed.scale)), axis=(0, 1)
    )
    assert back.sum() == pytest.approx(lying.sum(), rel=0.02)
    rows, columns = np.nonzero(lying > 0.5)
    other_rows, other_columns = np.nonzero(back > 0.5)
    for one, other in ((rows, other_rows), (columns, other_columns)):
        assert abs(one.min() - other.min()) <= 1
        assert abs(one.max() - other.max()) <= 1
    assert np.abs((lying > 0.5).astype(int) - (back > 0.5)).mean() < 0.02


def solid(job: Faced):  # type: ignore[no-untyped-def]
    from farbe.model.source import WholePiece

    return WHITE_UNDER.replace(source=WholePiece(), treatments=())


def test_two_sides_take_several_sheets(banner: Faced, store: ArtStore, tmp_path: Path) -> None:
    """Each is a hand-off with its own lines, and side B meets side A on each."""
    assert banner.roll is not None
    full = behind(banner.replace(stack=(solid(banner), COLOUR)), stack=(solid(banner), COLOUR))
    many = ganged(full.replace(medium=banner.roll.replace(longest=110)), store)
    assert [place.sheet for place in many.roll.places] == [0, 0, 1]  # type: ignore[union-attr]
    tickets = hand_off_sheets(many.job, store, tmp_path / "out")
    assert [len(ticket.lines) for ticket in tickets] == [2, 1]
    for number, ticket in enumerate(tickets, start=1):
        press = TestPress()
        taken = press.take(tmp_path / "out" / f"sheet-{number}")
        assert taken.lines == ticket.lines
        press.print_run("artwork", lambda *_: None)
        press.turn_over()
        press.print_run("artwork-back", lambda *_: None)
        front, back = (
            next(f for f in films if f.kind == "white").coverage["white"] > 0.5
            for films in (press.bed.behind, press.bed.on_pieces)
        )
        assert np.abs(front[::-1].astype(int) - back).mean() < 0.02
    # A pair is moved from one sheet to the next, from either side.
    for of in (many, many.other):
        moved = moved_pair(of, 2, up=False).first  # type: ignore[arg-type]
        was, now_ = (roll.places for roll in (many.roll, moved.roll))  # type: ignore[union-attr]
        assert [p.artwork for p in now_] == [was[0].artwork, was[2].artwork, was[1].artwork]
        assert [p.sheet for p in now_] == [0, 0, 1]
    # As a whole, both sides are told of the same film, and twice turned it is the first.
    other = many.other
    assert other is not None
    assert film_length(other) == pytest.approx(film_length(many))
    assert other.other == many
    assert "sheet-too-long" not in codes_of(many, store)
    big = tuple(a.replace(width=500.0, height=2000.0, quantity=40 if not i else 0)
                for i, a in enumerate(banner.artworks))  # fmt: skip
    behind_ = tuple(a.replace(width=500.0, height=2000.0, quantity=40 if not i else 0)
                    for i, a in enumerate(banner.other.artworks))  # type: ignore[union-attr]  # fmt: skip
    film = Roll(width=600, longest=20_000)
    banners = ganged(behind(banner.replace(artworks=big, medium=film), artworks=behind_), store)
    assert is_laid(banners) and len(sheets(banners.job)) == 5
    assert film_length(banners) > 80_000
    longest = [film_length(Faced(one)) for one in sheets(banners.job)]
    assert max(longest) <= 20_000 and sum(longest) == pytest.approx(film_length(banners))


def codes_of(job: Faced, store: ArtStore) -> set[str]:
    return {check.code for check in run_checks(Facts(job, store))}


def test_a_line_that_is_not_found_waits_for_the_hand(
    banner: Faced, store: ArtStore, tmp_path: Path
) -> None:
    hand_off(banner.job, store, tmp_path)
    press = TestPress()
    press.finds_lines = False
    press.take(tmp_path)
    press.print_run("artwork", lambda *_: None)
    with pytest.raises(BadInput, match="turned over is moved"):
        press.move_film(1, 1)
    press.turn_over()
    with pytest.raises(BadInput, match="line behind side A 1 is not found"):
        press.print_run("artwork-back", lambda *_: None)
    press.move_film(0.0, 0.0)
    press.print_run("artwork-back", lambda *_: None)
    assert "artwork-back" in press.bed.complete


def test_side_b_waits_until_side_a_is_confirmed(
    banner: Faced, store: ArtStore, tmp_path: Path
) -> None:
    words = [step.text for step in steps(banner)]
    assert words.index("Turn the film over") == words.index("Print the layers") + 1
    queue = Queue(tmp_path / "queue")
    number = add_job(queue, banner.job, store)
    with Press() as press:
        with pytest.raises(BadInput, match="then go on"):
            print_entry(queue, number, press, store)
        entry = queue.entry(number)
        assert entry.state is State.STOPPED
        assert "load it with its last end first" in entry.note
        assert press.ask(do="status")["complete"] == ["artwork"]
        print_entry(queue, number, press, store)
        assert queue.entry(number).state is State.DONE
        assert "artwork-back" in press.ask(do="status")["complete"]


@pytest.mark.long
def test_one_side_b_is_printed_again_on_its_film(
    banner: Faced, store: ArtStore, tmp_path: Path
) -> None:
    """Side B of the second pair was no good; it is laid by its line, and nothing else is printed.

    The press was off in between, and another job was on it.
    """
    queue, spool = Queue(tmp_path / "queue"), tmp_path / "spool"
    number = add_job(queue, banner.job, store)

    def done(which: int) -> None:
        with press_of(spool) as press:
            with pytest.raises(BadInput, match="last end first"):
                print_entry(queue, which, press, store)
            print_entry(queue, which, press, store)

    def seen(name: str) -> np.ndarray:
        with PressLine(spool) as press:
            press.ask(do="picture", path=str(tmp_path / name))
        return np.asarray(Image.open(tmp_path / name)).astype(int)

    done(number)
    before = seen("before.png")
    kill_press(spool)
    with press_of(spool) as press:
        hand_off(banner.job, store, tmp_path / "other")
        press.send(tmp_path / "other")
    queue.said_printed(number, (2,))
    again = print_again(queue, number, store, second_only=True)
    assert queue.entry(again).pieces == 1 and queue.entry(again).pairs
    done(again)
    changed = np.abs(seen("after.png") - before).sum(axis=2).max(axis=1) > 12
    rows = np.flatnonzero(changed)
    other = banner.other
    assert other is not None
    place = {piece.number: piece for piece in laid(other)}[2]
    scale = before.shape[0] / film_length(other)
    middle = (film_length(other) - place.y) * scale
    assert len(rows) > 20 and np.abs(rows - middle).max() <= 13 * scale + 3
    # A pair is printed anew on film of its own.
    pair = print_again(queue, number, store)
    done(pair)
    with PressLine(spool) as press:
        assert press.ask(do="status")["pieces"] == 1
        press.ask(do="quit")


@pytest.mark.long
def test_a_measured_offset_corrects_the_next_side_b(
    banner: Faced, store: ArtStore, tmp_path: Path
) -> None:
    """Side B that was found 0.8 mm to the right and 0.5 mm low is printed so much the other way."""
    assert banner.roll is not None
    off = banner.replace(medium=banner.roll.replace(offset=SideOffset(x=0.8, y=-0.5, scale=1.0)))
    plates = []
    for name, of in (("plain", banner), ("corrected", off)):
        hand_off(of.job, store, tmp_path / name)
        press = TestPress()
        press.take(tmp_path / name)
        press.print_run("artwork", lambda *_: None)
        front = press.bed.on_pieces[-1].coverage["cyan"]
        press.turn_over()
        press.print_run("artwork-back", lambda *_: None)
        plates.append((front, press.bed.on_pieces[-1].coverage["cyan"]))
    (front, back), (same, moved) = plates
    assert (front == same).all()
    assert moved.sum() < back.sum()

    def middle(plate: np.ndarray) -> np.ndarray:
        rows, columns = np.nonzero(plate > 0.2)
        return np.array([columns.min() + columns.max(), rows.min() + rows.max()]) / 2

    shift = (middle(moved) - middle(back)) / 5.0
    assert shift == pytest.approx([-0.8, -0.5], abs=0.25)


def test_pairs_are_checked(banner: Faced, store: ArtStore) -> None:
    def codes(job: Faced) -> set[str]:
        return {check.code for check in run_checks(Facts(job, store))}

    assert is_laid(banner)
    assert not codes(banner) & {"sides-differ", "side-b-missing", "artworks-meet", "beyond-film"}
    assert banner.other is not None
    one, *rest = banner.other.artworks
    small = behind(banner, artworks=(one.replace(width=36.0), *rest))
    assert "sides-differ" in codes(ganged(small, store))
    fewer = behind(banner, artworks=(one, rest[0]))
    assert "side-b-missing" in codes(ganged(fewer, store))
    roll = banner.roll
    assert roll is not None
    # Pairs keep an order that they were given.
    swapped = banner.replace(medium=roll.replace(places=(roll.places[2], *roll.places[:2])))
    again = ganged(swapped, store)
    assert again.roll is not None
    assert again.roll.places[0].artwork == roll.places[2].artwork
    assert again.roll.places[0].y == roll.places[0].y
    assert place_size(again, again.roll.places[0]) == (40.0, 26.0)


def test_a_measured_turn_is_turned_back(banner: Faced, store: ArtStore) -> None:
    """Side B found turned by 2° anticlockwise is printed turned by 2° clockwise."""
    assert banner.roll is not None
    solid_b = behind(banner, stack=(solid(banner),))
    slopes = []
    for turn in (0.0, 2.0):
        of = solid_b.replace(medium=banner.roll.replace(offset=SideOffset(rotation=turn)))
        other = of.other
        bed = job_bed(other, store)
        rows = bed.rows(0, bed.size[1])
        assert rows is not None
        place = max(laid(other), key=lambda p: p.y)
        middle = (bed.frame.height - place.y) * bed.grid.per_mm_y
        lines = np.arange(
            round(middle - 9 * bed.grid.per_mm_y), round(middle + 9 * bed.grid.per_mm_y)
        )
        first = [int(np.flatnonzero(rows[y].max(axis=1) > 128).min()) for y in lines]
        across = np.array(first) / bed.grid.per_mm_x
        slopes.append(np.degrees(np.arctan(np.polyfit(lines / bed.grid.per_mm_y, across, 1)[0])))
    # Rows count down, so an edge that leans to the right upwards has a falling slope.
    assert slopes == pytest.approx([0.0, -2.0], abs=0.15)
