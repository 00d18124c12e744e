"""The first prediction against closed forms."""

from __future__ import annotations

import math
import os
import threading
from collections.abc import Sequence

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from farbe.art.artwork import Pixels
from farbe.art.profiles import shipped_profile
from farbe.colour.lab import difference
from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.model.condition import Condition, Gloss
from farbe.model.layer import BLACKOUT, COLOUR, VARNISH_OVER, WHITE_UNDER, Layer
from farbe.model.piece import Material, Reader, Surface
from farbe.model.printer import Ink, LayerKind, Register
from farbe.optics.anew import anew
from farbe.optics.films import Film, hits, join, over, stack, thicker
from farbe.optics.inks import BLACKOUT as BLACKOUT_FILM
from farbe.optics.inks import WHITE, InkSet, hits_for, white_film
from farbe.optics.light import Patch, in_tiles, to_linear
from farbe.optics.look import look, opacity
from farbe.optics.look import seen as seen_by
from farbe.optics.shake import STATED_SIGMAS, edge_of, moves, play_moves, shaken
from farbe.optics.view import View
from farbe.separate.choke import Plate
from farbe.separate.tones import lab_of

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
    assert over(Film.even(r, t), 0.0) == pytest.approx(r)
    assert over(Film.even(0.0, 1.0), 0.37) == pytest.approx(0.37)


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

    from farbe.art.profiles import srgb_profile

    inks = np.random.default_rng(2).integers(0, 256, (20, 20, 4), dtype=np.uint8)
    picture = look(
        (COLOUR,),
        [np.ascontiguousarray(inks[..., i]) for i in range(4)],
        reader=Reader.FACE,
        surface=Surface(colour="#ffffff"),
        profile=PROFILE,
    )
    proof = ImageCms.buildTransform(
        io.BytesIO(PROFILE),
        io.BytesIO(srgb_profile()),
        "CMYK",
        "RGB",
        1,
        ImageCms.Flags.NOOPTIMIZE | ImageCms.Flags.NOCACHE,
    )
    wanted = np.asarray(ImageCms.applyTransform(Image.fromarray(inks, "CMYK"), proof))
    assert np.abs(picture.astype(int) - wanted).max() <= 1
    assert float(difference(lab_of(picture), lab_of(wanted)).mean()) < 0.5
    assert to_linear("#ffffff") == pytest.approx((1, 1, 1))


shares = st.floats(0, 1)
films = st.builds(
    lambda r, b, t: Film(0.999 * r * (1 - t), 0.999 * b * (1 - t), 0.999 * t),
    shares,
    shares,
    shares,
)


@given(st.lists(films, min_size=1, max_size=6))
def test_no_stack_gives_more_light_than_it_gets(made: list[Film]) -> None:
    whole = stack(made)
    assert whole.front >= 0 and whole.front + whole.through <= 1 + 1e-9
    assert whole.back >= 0 and whole.back + whole.through <= 1 + 1e-9
    # Turned over, the same films in reverse give the same stack turned over.
    other = stack([film.turned() for film in reversed(made)])
    assert other.front == pytest.approx(whole.back) and other.back == pytest.approx(whole.front)
    assert other.through == pytest.approx(whole.through)


@given(films, films, films)
def test_joining_does_not_depend_on_where_one_begins(a: Film, b: Film, c: Film) -> None:
    one, other = join(join(a, b), c), join(a, join(b, c))
    assert one.front == pytest.approx(other.front) and one.through == pytest.approx(other.through)


KINDS = (WHITE_UNDER, BLACKOUT)


@given(
    st.lists(st.sampled_from(KINDS), min_size=1, max_size=5),
    st.sampled_from([(1, 1), (7, 3), (200, 1100)]),
    st.integers(0, 99),
)
@settings(max_examples=25)
def test_tables_of_plates_say_what_their_films_do(
    kinds: list[Layer], size: tuple[int, int], seed: int
) -> None:
    """Each pixel against films joined one by one, with even and uneven places in the plates."""
    rng = np.random.default_rng(seed)
    layers = tuple(one.replace(name=f"{at}", hits=1 + at % 2) for at, one in enumerate(kinds))
    plates = [rng.integers(0, 256, size, np.uint8) for _ in layers]
    plates[0][:, : size[1] // 2 + 1] = 90
    surface = Surface(material=Material.TRANSLUCENT, colour="#446688")
    behind = np.array((0.2, 0.3, 0.4), np.float32)
    found = seen_by(
        layers, plates, reader=Reader.FACE, surface=surface, profile=PROFILE, behind=behind
    )
    solid = {LayerKind.WHITE: WHITE, LayerKind.BLACKOUT: BLACKOUT_FILM}
    for row, column in {(0, 0), (size[0] - 1, size[1] - 1), (size[0] // 2, size[1] // 3)}:
        half = 0.48 * to_linear("#446688")[1]
        whole = Film.even(half, half)
        for layer, plate in zip(layers, plates, strict=True):
            share = float(plate[row, column]) / 255
            whole = join(hits(solid[layer.kind].covering(share), layer.hits), whole)
        assert found.day[1, row, column] == pytest.approx(over(whole, 0.3), abs=1e-5)
        assert found.through[1, row, column] == pytest.approx(whole.through, abs=1e-5)


@given(st.integers(1, 8), st.integers(18, 255), st.sampled_from(list(Gloss)))
@settings(max_examples=40)
def test_varnish_changes_lightness_and_is_never_a_haze(count: int, grey: int, gloss: Gloss) -> None:
    """One hit is seen on black, eight look the same, white stays white; the sum of light holds."""
    surface = Surface(colour=f"#{grey:02x}{grey:02x}{grey:02x}")
    inks = InkSet(condition=Condition(name="x", surfaces=(Material.OPAQUE,), inks=(), gloss=gloss))
    plate = [np.array([[0, 128, 255]], np.uint8)]
    found = seen_by(
        (VARNISH_OVER.replace(hits=count),), plate, reader=Reader.FACE, surface=surface,
        profile=PROFILE, inks=inks,
    ).day[0, 0]  # fmt: skip
    bare = to_linear(surface.colour)[0]
    s = inks.condition.shine  # type: ignore[union-attr]
    varnished = bare * (1 - s) + s if gloss is Gloss.MATT else (bare - s) / (1 - s)
    assert found == pytest.approx([bare, (127 * bare + 128 * varnished) / 255, varnished], abs=1e-5)
    lab = lab_of(look((VARNISH_OVER,), plate, reader=Reader.FACE, surface=surface,
                      profile=PROFILE, inks=inks))[0]  # fmt: skip
    # Under other films it is clear.
    under = look((VARNISH_OVER, WHITE_UNDER), [*plate, plate[0] * 0], reader=Reader.FACE,
                 surface=surface, profile=PROFILE, inks=inks)  # fmt: skip
    assert (under == under[0, 0]).all()
    far = float(difference(lab[0], lab[2]))
    assert far < 4 and (grey > 30 or far > 1) and (grey < 240 or far < 0.5)


def test_closed_forms_of_films() -> None:
    opaque, clear = Film.even(0.4, 0.0), Film.even(0.0, 1.0)
    assert join(opaque, Film.even(0.9, 0.0)).front == 0.4
    assert join(clear, opaque).front == pytest.approx(0.4)
    # Equal films are one thick film: three hits are one and two.
    film = Film.even(0.3, 0.5)
    assert hits(film, 3).front == pytest.approx(join(hits(film, 2), film).front)
    # A film between two mirrors of reflectance 1 keeps what it absorbs, no more.
    assert over(film, 1.0) == pytest.approx(0.3 + 0.25 / 0.7)


def test_hits_for_an_opacity() -> None:
    """r after n hits is n r / (1 + (n - 1) r): 0.9 takes four hits of 0.72."""
    assert hits_for(0.72) == 1 and hits_for(0.9) == 4 and hits_for(0.95) == 8
    plates = [np.array([[0, 255]], np.uint8)]
    found = opacity((WHITE_UNDER.replace(hits=4),), plates, PROFILE)
    assert found[0] == pytest.approx((0, white_film(4)[0]), abs=1e-6)


def test_lit_from_behind() -> None:
    """Heavy colour shows by light from behind; a dark board shows nothing then."""
    blue = [np.full((4, 4), c, np.uint8) for c in (255, 180, 0, 0, 255)]
    blue[0][:, :2] = blue[1][:, :2] = 0
    stack_ = (COLOUR.replace(hits=2), WHITE_UNDER.replace(hits=2))
    clear = Surface(material=Material.CLEAR)
    found = seen_by(stack_, blue, reader=Reader.THROUGH, surface=clear, profile=PROFILE)
    lit = found.by(1.0)
    assert lit[0, 3, 2] > lit[0, 3, 0] + 40
    # One hit of white looks white; two are darker, unless they are exposed by more.
    one = (COLOUR.replace(hits=2), WHITE_UNDER)
    bright = seen_by(one, blue, reader=Reader.THROUGH, surface=clear, profile=PROFILE).by(1.0)
    assert bright[0, 0].min() > 250
    assert 150 < lit[0, 0].max() < 220
    assert found.by(1.0, View(exposure=1.0).gain(found))[0, 0].min() > 250
    opaque = Surface(colour="#ffffff")
    dark = seen_by(stack_, blue, reader=Reader.FACE, surface=opaque, profile=PROFILE).by(1.0)
    assert dark.max() == 0


@given(st.floats(0, 0.95), st.floats(0.02, 1.0), st.integers(1, 5), st.floats(0.1, 3))
def test_more_ink_is_a_thicker_film(share: float, through: float, count: int, by: float) -> None:
    """So many times as thick is so many hits; thicknesses add up; nothing gains light."""
    film = Film.even(share * (1 - through), through)
    once, twice = thicker(film, by), thicker(film, 2 * by)
    many, pile = thicker(film, count), stack([film] * count)
    assert (many.front, many.through) == pytest.approx((pile.front, pile.through), abs=1e-6)
    joined = stack([once, once])
    assert (twice.front, twice.through) == pytest.approx((joined.front, joined.through), abs=1e-6)
    assert once.front >= 0 and once.front + once.through <= 1 + 1e-9


def test_a_mode_that_lays_down_more_shows_it(job: Faced) -> None:
    dark = Surface(colour="#202020")

    def light(laydown: float, layers: tuple[Layer, ...], plates: tuple[int, ...]) -> float:
        inks = InkSet.of(job.printer.replace(laydown=laydown))
        each = [np.full((1, 1), c, np.uint8) for c in plates]
        picture = look(layers, each, reader=Reader.FACE, surface=dark, profile=PROFILE, inks=inks)
        return float(picture.mean())

    white = [light(share, (WHITE_UNDER,), (255,)) for share in (10, 100, 200, 300)]
    assert white[0] < white[1] - 60 and white == sorted(white)
    # Three times the ink in one hit is three hits.
    three = light(100, (WHITE_UNDER.replace(hits=3),), (255,))
    assert white[3] == pytest.approx(three, abs=1)
    colour = [light(share, (WHITE_UNDER.replace(hits=9), COLOUR), (255, 90, 90, 0, 0))
              for share in (20, 100, 250)]  # fmt: skip
    assert colour[0] > colour[1] + 30 > colour[2] + 40
    # Without an ink of its own, blackout is what process black does.
    own = (*job.printer.inks, Ink(name="Block", kind=LayerKind.BLACKOUT, shown="#000000"))
    plates = [np.array([[255, 128, 0]], np.uint8)]
    clear = Surface(material=Material.CLEAR)

    def through(
        layers: tuple[Layer, ...], of: list[np.ndarray], inks: tuple[Ink, ...]
    ) -> np.ndarray:
        printer = InkSet.of(job.printer.replace(inks=inks))
        return seen_by(
            layers, of, reader=Reader.FACE, surface=clear, profile=PROFILE, inks=printer
        ).through[:, 0]

    blocked = through((BLACKOUT,), plates, job.printer.inks)
    black = through((COLOUR,), [np.zeros_like(plates[0])] * 3 + plates, job.printer.inks)
    assert blocked == pytest.approx(black, abs=5e-4)
    assert np.abs(through((BLACKOUT,), plates, own) - blocked).max() > 0.01
    hides = opacity((BLACKOUT,), plates, PROFILE, InkSet.of(job.printer))[0]
    assert hides[0] > 0.4 > hides[1] > hides[2] == 0


# shake


def square(side: float) -> np.ndarray:
    half = side / 2
    return np.array([(-half, -half), (half, -half), (half, half), (-half, half)])


def test_shake_of_one_direction_is_the_normal_distribution() -> None:
    """Shifted along x alone, a rim beyond c shows with the chance erfc(c / (s sqrt 2)) ."""
    edge = edge_of([square(40)])
    sigma = 0.1 / STATED_SIGMAS
    found = moves(Register(x=0.1, y=0, rotation=0, scale=0), edge, draws=40_000)
    for choke in (0.02, 0.05, 0.1):
        wanted = math.erfc(choke / sigma / math.sqrt(2))
        assert shaken(found, choke, 0.05).chance == pytest.approx(wanted, abs=0.01)
    assert shaken(found, 0.0, 0.05).least == pytest.approx(0.1, rel=0.03)


def test_shake_of_turn_scale_and_play_by_geometry() -> None:
    """A turn moves the ends of a square's sides out or in, a scale all of them by half a side."""
    edge = edge_of([square(40)])
    turned = moves(Register(x=0, y=0, rotation=0.5, scale=0), edge)
    wanted = 20 * np.radians(0.5) / STATED_SIGMAS
    assert turned.max(axis=1).std() == pytest.approx(wanted * (1 - 2 / np.pi) ** 0.5, rel=0.05)
    assert np.allclose(turned.max(axis=1), -turned.min(axis=1))
    scaled = moves(Register(x=0, y=0, rotation=0, scale=1.0), edge)
    assert np.ptp(scaled, axis=1).max() < 1e-12
    assert np.quantile(scaled[:, 0], 0.975) == pytest.approx(20 * 0.01, rel=0.05)
    corner = edge_of([np.array([(-20.0, -20), (20, -20), (20, 20), (18, 20), (-20, 20)])])
    assert np.abs(moves(Register(x=0, y=0, rotation=0.5, scale=0), corner)).max() > 0.1
    play = play_moves(0.3, edge)
    assert play.max() <= 0.3 and shaken(play, 0.3, 0.01).chance == 0
    again = moves(Register(), edge)
    assert np.array_equal(again, moves(Register(), edge))
    assert not np.array_equal(again, moves(Register(), edge, seed=2))


@pytest.mark.parametrize(
    "shape", [(1, 1), (250, 512), (3, 50000), (257, 512), (784, 512), (700, 2100), (36000, 5)]
)
def test_each_pixel_lies_in_one_tile(shape: tuple[int, int]) -> None:
    """However few there are, all threads have some where threads are worth it."""
    met, threads, several = np.zeros(shape, np.uint8), set[int](), threading.Event()
    worth_it = met.size >= 128 * 1024 and (os.cpu_count() or 1) > 1

    def work(tile: Patch) -> None:
        met[tile] += 1
        threads.add(threading.get_ident())
        if len(threads) > 1:
            several.set()
        elif worth_it:
            several.wait(10)

    in_tiles(shape, work)
    assert (met == 1).all() and (len(threads) > 1) is worth_it


def test_colours_on_paper_are_what_each_is_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    """More colours than are kept, runs of them, none and all four inks: again and again."""
    from farbe.optics import onpaper
    from farbe.optics.onpaper import _convert, light_on_paper

    monkeypatch.setattr(onpaper, "_PLACES", 12)
    monkeypatch.setattr(onpaper, "_AT_ONCE", 1 << 11)
    monkeypatch.setattr(onpaper, "_MEMORIES", Kept(2))
    many = np.random.default_rng(5).integers(0, 256, (110, 90, 4)).astype(np.uint8)
    few = np.repeat(many[:40, :50], 30, axis=1)
    ends = np.array([[[0, 0, 0, 0], [255] * 4, [1, 0, 0, 0], [255] * 4]], np.uint8)
    for inks in (ends, few, many, many[::-1], few, ends):
        wanted = _convert(inks[:, ::7].reshape(1, -1, 4), shipped_profile())
        found = light_on_paper(inks, shipped_profile())[:, ::7]
        assert np.array_equal(found.reshape(1, -1, 3), wanted)
    assert light_on_paper(many[:0], shipped_profile()).shape == (0, many.shape[1], 3)


def test_colours_are_converted_once(monkeypatch: pytest.MonkeyPatch) -> None:
    """Also those that want one place; a tile whose colour stays is not looked up again."""
    from farbe.optics import inks as inks_of
    from farbe.optics import onpaper
    from farbe.optics.inks import Coloured

    monkeypatch.setattr(onpaper, "_PLACES", 8)
    monkeypatch.setattr(onpaper, "_MEMORIES", Kept(2))
    places = onpaper._Memory._places(np.arange(1, 4000, dtype=np.uint32), onpaper._SPREADS[0])
    pair = (np.flatnonzero(places == places[0])[:2] + 1).astype("<u4")
    tile = pair.view(np.uint8).reshape(1, 2, 4)
    asked, convert = [], onpaper._convert

    def counting(inks: np.ndarray, profile: bytes) -> np.ndarray:
        asked.append(inks.shape[1])
        return convert(inks, profile)

    monkeypatch.setattr(onpaper, "_convert", counting)
    first = onpaper.light_on_paper(tile, shipped_profile())
    again = onpaper.light_on_paper(tile[:, ::-1], shipped_profile())[:, ::-1]
    assert asked == [2]
    assert (first == again).all()
    assert (first == convert(tile, shipped_profile())).all()

    looked, light = [], inks_of.light_on_paper
    monkeypatch.setattr(inks_of, "light_on_paper", lambda *of: looked.append(of) or light(*of))
    plates = tuple(np.full((3, 5), level, np.uint8) for level in (11, 22, 33, 44))
    plates[0][0, 0] = 12
    whole = slice(None), slice(None)
    films = [Coloured(plates, shipped_profile(), power).in_place(whole) for power in (0.5, 0.5, 1)]
    assert len(looked) == 2
    assert (np.asarray(films[0][1].through) == films[1][1].through).all()
    # One hit lets through the root of what two do.
    assert np.asarray(films[0][1].through) ** 2 == pytest.approx(films[2][1].through, rel=1e-5)


@settings(max_examples=60)
@given(
    count=st.integers(1, 5), high=st.integers(1, 70), wide=st.integers(1, 70),
    other=st.sampled_from((0.0, 0.001, 0.1, 0.24, 0.6)), seed=st.integers(0, 99),
    moved=st.tuples(st.integers(-3, 90), st.integers(-3, 90)) | st.just((0, 0)),
)  # fmt: skip
def test_a_picture_made_after_another_is_the_same_as_one_by_itself(
    count: int, high: int, wide: int, other: float, seed: int, moved: tuple[int, int]
) -> None:
    """Of pixels that differ alone, unless many do; the former picture stays as it was.

    That holds, too, of what lies elsewhere than it did, be that so or not.
    """
    rng, asked = np.random.default_rng(seed), list[int]()
    weights = rng.integers(1, 9, (count, 3))

    def made(plates: Sequence[Plate]) -> Pixels:
        asked.append(plates[0].size)
        return (np.stack(plates, axis=-1).astype(int) @ weights % 251).astype(np.uint8)

    before = [rng.integers(0, 256, (high, wide), dtype=np.uint8) for _ in range(count)]
    differ = rng.random((high, wide)) < other
    lie = [np.roll(plate, moved, (1, 0)) for plate in before]
    after = [np.where(differ, plate + np.uint8(1 + at), plate) for at, plate in enumerate(lie)]
    former = made(before)
    former.setflags(write=False)
    asked.clear()
    found = anew(after, (before, former), made, moved=moved)
    # What comes in at the sides was not there.
    anything = differ.copy()
    right, down = moved
    anything[: max(0, down)], anything[high + min(0, down) :] = True, True
    anything[:, : max(0, right)], anything[:, wide + min(0, right) :] = True, True
    at_most = 2 * int(anything.sum()) + 512 if anything.mean() < 0.25 else high * wide
    assert sum(asked) <= at_most and (found is former) == (not (differ.any() or any(moved)))
    assert np.array_equal(found, made(after)) and np.array_equal(former, made(before))
    assert np.array_equal(anew(before, (before, former), made, moved=moved), former)
    assert anew([], ([], former), made, moved=moved) is former
    smaller = [plate[:, : wide // 2 + 1] for plate in after]
    assert np.array_equal(anew(smaller, (before, former), made), made(smaller))
