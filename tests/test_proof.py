"""The Proof: views, parts on a finer grid, outlines, comparisons; in the core and the window."""

from __future__ import annotations

import random

import cv2
import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from farbe.apart.leisure import LEISURE, Foresight
from farbe.art.artwork import Pixels
from farbe.desk.app import settle
from farbe.desk.stations.proof.canvas import ProofCanvas
from farbe.desk.stations.proof.form import LookForm, ProofInspector
from farbe.desk.window import MainWindow
from farbe.edits.stack import with_choke, with_layer
from farbe.files.store import ArtStore
from farbe.follows import preview
from farbe.follows.foresight import choked_farther
from farbe.follows.looking import Shown
from farbe.follows.preview import preview_of, wanted_print
from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.model.edit import Adjust, Clear, Gains
from farbe.model.layer import COLOUR, WHITE_UNDER
from farbe.model.piece import Circle, Material, Reader, Surface
from farbe.model.printer import LayerKind
from farbe.model.source import WholePiece
from farbe.model.treatment import Choke, Dots
from farbe.optics import view
from farbe.optics.look import Seen
from farbe.optics.shake import moved_out
from farbe.optics.view import Behind, View, artwork_white, scene, seen_as
from farbe.plan.alternatives import ARTWORK, alternatives, uncorrected, with_white_hits
from farbe.plan.recipes import RECIPES
from farbe.plan.stations import Station
from farbe.plan.surfaces import surfaces_to_try
from farbe.render import glimpse as glimpses
from farbe.render.contours import contours, margin
from farbe.render.glimpse import Box, Glimpse, glimpse
from farbe.render.raster import unwatched
from farbe.separate import strokes, treat
from farbe.separate.grid import Grid
from hands import grabbed

GRID = Grid(150, 210)
#: So fine that rows of a whole piece are made by two threads, and those of most parts by one.
FINE = Grid(430, 720)


@settings(max_examples=40)
@given(*(st.floats(-30.0, 30.0) for _ in range(2)), *(st.floats(0.0, 20.0) for _ in range(2)))
@example(-2.0, -1.1, 3.3, 2.7)
@example(30.0, 0.0, 1.0, 1.0)
@example(0.0, -30.0, 1.0, 1.0)
def test_a_part_is_the_whole_cut_out(
    job: Faced, store: ArtStore, left: float, bottom: float, width: float, height: float
) -> None:
    """Of what lies beyond the piece it is the nearest of it: a pixel at the least."""
    whole = glimpse(job, store, FINE)
    asked = Box(left, bottom, width, height)
    part = glimpse(job, store, FINE, asked)
    row, column = whole.pixel_at(part.box.left + 1e-6, part.box.bottom + part.box.height - 1e-6)  # type: ignore[misc]
    high, wide = part.artwork.shape[:2]
    assert high and wide
    window_ = (slice(row, row + high), slice(column, column + wide))
    assert (part.artwork == whole.artwork[window_]).all()
    for one, all_ in zip(part.plates, whole.plates, strict=True):
        assert (one == all_[window_]).all()
    inside = asked.shared(whole.box)
    if inside is not None:
        found = part.box.shared(inside)
        assert found is not None and (found.width, found.height) == pytest.approx(
            (inside.width, inside.height), abs=1e-6
        )
    street = scene(Behind.STREET, whole)
    assert np.allclose(scene(Behind.STREET, part), street[window_], atol=1e-5)


def test_what_a_part_tells(job: Faced, store: ArtStore) -> None:
    part = glimpse(job, store, GRID, Box(-2.0, -1.1, 3.3, 2.7))
    assert part.pixel_at(0.0, 0.0) is not None and part.pixel_at(40, 0) is None
    assert part.of_kind(LayerKind.WHITE) is not None and part.of_kind(LayerKind.BLACKOUT) is None


def test_the_other_side_is_seen_turned_over(job: Faced, store: ArtStore) -> None:
    """By light from behind both readers see the same, turned: light passes alike both ways."""
    clear = job.replace(piece=job.piece.replace(surface=Surface(material=Material.CLEAR)))
    whole = glimpse(clear, store, GRID)
    face, back = seen_as(whole, View()), seen_as(whole, View(other_side=True))
    assert np.allclose(face.through, back.through[..., ::-1], atol=1e-5)
    # White under colour from the face hides the colour from behind.
    _, height, width = face.day.shape
    middle = slice(None), height // 2, width // 2
    seen = np.ptp(face.day[middle]), np.ptp(back.turned().day[middle])
    assert seen[0] > 2 * seen[1]
    turned = back.turned().by(0.0)[:, ::-1].astype(int)
    assert np.abs(turned - back.by(0.0)).max() <= 1 and np.ptp(turned[height // 2]) > 20
    opaque = seen_as(glimpse(job, store, GRID), View(other_side=True)).by(0.0)
    assert (opaque.reshape(-1, 3) == (0x1D, 0x3B, 0x31)).all()
    dark, white = (
        seen_as(whole, View(behind=b)).by(0.0)[2, 2] for b in (Behind.DARK, Behind.WHITE)
    )
    assert dark.max() < 60 < 180 < white.min()
    tried = seen_as(glimpse(job, store, GRID), View(surface=Surface(colour="#a3262b"))).by(0.0)
    assert tried[2, 2].tolist() == [0xA3, 0x26, 0x2B]


def test_where_no_layer_prints_the_surface_alone_is_seen(job: Faced, store: ArtStore) -> None:
    dark = job.replace(stack=tuple(layer.replace(on=False) for layer in job.stack))
    moved = dark.replace(placing=dark.placing.replace(offset_x=1.0))
    one, two = (glimpse(of, store, GRID) for of in (dark, moved))
    bare = view.look_of(one)
    assert np.ptp(bare.reshape(-1, 3), axis=0).max() == 0
    assert (view.look_of(two, (one, bare)) == bare).all()


def test_only_pixels_that_differ_are_looked_at_again(
    job: Faced, store: ArtStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Another choke changes rims; another surface all of it."""
    white = next(layer for layer in job.stack if layer.kind is LayerKind.WHITE)
    finer = Grid(400, 300)

    def choked(by: float) -> Faced:
        one = with_choke(white, by)
        return job.replace(stack=tuple(one if la is white else la for la in job.stack))

    before, after = (glimpse(choked(by), store, finer) for by in (0.05, 0.3))
    looks = [seen_as(part, View()).by(0.0) for part in (before, after)]
    asked = list[int]()

    def counted(part: Glimpse, of: View) -> Seen:
        asked.append(part.plates[0].size)
        return seen_as(part, of)

    monkeypatch.setattr(view, "seen_as", counted)
    found = view.look_of(after, (before, looks[0]))
    differ = int((looks[0] != looks[1]).any(axis=2).sum())
    assert 0 < differ <= asked[0] < 0.3 * before.plates[0].size
    assert np.abs(found.astype(int) - looks[1]).max() <= 1
    assert (view.look_of(after, (after, looks[1])) == looks[1]).all() and len(asked) == 1
    green = job.piece.replace(surface=Surface(colour="#0f6a3c"))
    other = glimpse(choked(0.3).replace(piece=green), store, finer)
    shown = view.look_of(other, (after, looks[1]))
    assert asked[-1] == other.plates[0].size and (shown == seen_as(other, View()).by(0.0)).all()


def test_pictures_that_follow_each_other_look_as_if_made_anew(
    job: Faced, store: ArtStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Coarse and fine ones take turns, and only what differs from the last of a kind is made."""
    rng, several = random.Random(3), False

    def other(now: Faced) -> Faced:
        at = rng.randrange(len(now.stack))
        layer = now.stack[at]
        return rng.choice((
            now.replace(stack=tuple(
                with_choke(la, rng.uniform(0, 0.4)) if la.kind is LayerKind.WHITE else la
                for la in now.stack
            )),
            now.replace(stack=(*now.stack[:at], layer.replace(hits=3 - min(2, layer.hits)),
                               *now.stack[at + 1 :])),
            now.replace(piece=now.piece.replace(
                surface=Surface(colour=rng.choice(("#0f6a3c", "#f4f0e0")))
            )),
            now.replace(placing=now.placing.replace(
                offset_x=rng.choice((0.0, 0.7)), offset_y=rng.choice((0.0, -0.4))
            )),
        ))  # fmt: skip

    anew, rows, look_of = list[float](), list[int](), view.look_of

    def counted(part: Glimpse, before: tuple[Glimpse, Pixels] | None) -> Pixels:
        rows.append(len(part.artwork))
        return look_of(part, before)

    monkeypatch.setattr(preview, "look_of", counted)
    monkeypatch.setattr(glimpses, "FEW_ROWS", 20)
    for _ in range(24):
        job = other(job)
        for coarse in rng.choice(((True, False), (True,), (True, True, False))):
            rows.clear()
            picture = preview_of(job, 1, store, unwatched, coarse=coarse)
            made = picture.of(wanted_print(job, 1))
            assert sum(rows) == len(made.artwork)
            wanted = seen_as(made, View()).by(0.0)
            assert made.coarse is coarse and np.abs(made.look.astype(int) - wanted).max() <= 1
            anew.append(made.look.mean())
            several = several or len(rows) > 1
            # What nothing differs from stays the very same.
            assert preview_of(job, 1, store, unwatched, coarse=coarse).look is made.look
    assert len(set(anew)) > 6 and several


@pytest.mark.parametrize(("before", "now", "then"), [(0.111, 0.121, 0.162), (0.181, 0.171, 0.15)])
def test_a_choke_that_goes_on_finds_its_strokes_made(
    lids: tuple[Faced, ArtStore], monkeypatch: pytest.MonkeyPatch,
    before: float, now: float, then: float,
) -> None:  # fmt: skip
    """Once a picture is there, what the next chokes on the same way want is made."""
    job, store = lids
    made, lines = list[int](), strokes._lines
    monkeypatch.setattr(strokes, "_lines", lambda *some: (made.append(1), lines(*some))[1])

    def choked(by: float) -> Faced:
        white = next(layer for layer in job.stack if layer.kind is LayerKind.WHITE)
        return with_layer(job, white.name, lambda layer: with_choke(layer, by))

    def pictures(*, foresees: bool) -> list[Pixels]:
        """Of the last choke, of which nothing was kept; ``made`` tells what was made for it."""
        for room, name in ((strokes, "_STROKES"), (strokes, "_SPINES"), (strokes, "_EDGES"),
                           (treat, "_CHOKED"), (glimpses, "_SCENES")):  # fmt: skip
            monkeypatch.setattr(room, name, Kept(100))
        for by in (before, now):
            asked = LEISURE.set(todo := list[Foresight]())
            preview_of(choked(by), 1, store, unwatched)
            LEISURE.reset(asked)
        for foresight in todo if foresees else ():
            foresight(unwatched)
        made.clear()
        both = (
            preview_of(choked(then), 1, store, unwatched, coarse=coarse) for coarse in (True, False)
        )
        return [plate for picture in both for plate in picture.plates]

    anew = pictures(foresees=False)
    assert made
    found = pictures(foresees=True)
    assert not made and all(map(np.array_equal, found, anew))


def test_chokes_that_jump_or_stay_are_not_gone_on_with(job: Faced) -> None:
    """Only those that are changed by little, as a key or a drag does, and not from one to none."""
    white = next(layer for layer in job.stack if layer.kind is LayerKind.WHITE)

    def after(before: float, now: float) -> float | None:
        jobs = (
            job.replace(stack=tuple(
                with_choke(la, by) if la is white else la for la in job.stack
            )) for by in (now, before)
        )  # fmt: skip
        farther = choked_farther(*jobs)
        of = farther and next(la for la in farther.stack if la.name == white.name)
        return of.treatments[0].by if of else None  # type: ignore[union-attr]

    assert (after(0.1, 0.11), after(0.14, 0.15), after(0.12, 0.11)) == (0.16, 0.16, 0.1)
    assert (after(0.06, 0.05), after(0.1, 0.1), after(0.1, 0.2), after(1.0, 1.01)) == (None,) * 4
    assert after(0.0, 0.05) == 0.06 and choked_farther(job, job.replace(stack=())) is None


def test_a_look_waits_for_dots_that_are_put_in_place_of_tones(
    job: Faced, store: ArtStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Of rows as they were made it would be another."""
    monkeypatch.setattr(glimpses, "FEW_ROWS", 20)
    white = next(layer for layer in job.stack if layer.kind is LayerKind.WHITE)
    for by in (0.1, 0.15):
        dotted = white.replace(treatments=(Dots(per_cm=80.0), Choke(by=by)))
        of = job.replace(
            stack=tuple(dotted if la is white else la for la in job.stack),
            piece=job.piece.replace(shape=Circle(diameter=60.0)),
            printer=job.printer.replace(dpi_x=1200, dpi_y=1200),
        )
        made = preview_of(of, 1, store, unwatched).of(wanted_print(of, 1))
        wanted = seen_as(made, View()).by(0.0)
        assert np.abs(made.look.astype(int) - wanted).max() <= 1


def test_white_of_the_artwork_is_told_from_paper(job: Faced, store: ArtStore) -> None:
    white = artwork_white(glimpse(job, store, GRID))
    assert white.inked_area > 0.5 and white.inked_area > white.bare_area
    without = job.replace(stack=(COLOUR,))
    bare = artwork_white(glimpse(without, store, GRID))
    assert bare.inked_area == 0
    assert bare.bare_area == pytest.approx(white.inked_area + white.bare_area)


def test_contours_and_margins_by_geometry() -> None:
    grid = Grid(254, 508)
    plate = np.zeros((400, 300), np.uint8)
    cv2.rectangle(plate, (100, 100), (199, 299), 255, -1)
    box = Box(-15.0, -10.0, 30.0, 20.0)
    (line,) = contours(plate, box, grid)
    # Through the middles of the outermost pixels.
    assert line.min(axis=0) == pytest.approx((-4.95, -4.975))
    assert line.max(axis=0) == pytest.approx((4.95, 4.975))
    assert margin([line], Circle(diameter=20)) == pytest.approx(
        10 - np.hypot(4.95, 4.975), abs=2e-3
    )
    beyond = margin([line], Circle(diameter=10))
    assert beyond == pytest.approx(5 - np.hypot(4.95, 4.975), abs=2e-3)
    assert margin([], Circle(diameter=10)) is None


def test_an_edge_moves_out_by_so_many_mm() -> None:
    colour = np.zeros((40, 40), np.uint8)
    colour[:, :20] = 255
    white = np.zeros_like(colour)
    white[:, :16] = 255
    out = moved_out(white, colour, 0.25, (0.05, 0.1))
    assert (out[20] >= 128).sum() == 21
    assert moved_out(white, colour, 0.0, (0.05, 0.1)) is white


def test_alternatives_of_a_job(job: Faced) -> None:
    words = [a.words for a in alternatives(job, RECIPES)]
    assert words[0] == "one hit of white more" and "one hit of white fewer" not in words
    assert sum(w.startswith("recipe: ") for w in words) == len(RECIPES)
    more = with_white_hits(with_white_hits(job, 1), -1)
    assert more == job and with_white_hits(job, -3) == job
    art = job.artworks[0].replace(edits=(Clear(), Adjust(brightness=20)))
    corrected = job.replace(
        artworks=(art,), conversion=job.conversion.replace(gains=Gains(cyan=10))
    )
    assert "the job without corrections" in [a.words for a in alternatives(corrected, ())]
    plain = uncorrected(corrected)
    assert [e.on for e in plain.artworks[0].edits] == [True, False]
    assert plain.conversion == job.conversion
    tried = surfaces_to_try(Surface(material=Material.TEXTILE, colour="#17181a"))
    assert {s.material for s in tried} == {Material.TEXTILE}
    assert "#17181a" not in {s.colour for s in tried}


def station(window: MainWindow) -> tuple[LookForm, ProofCanvas]:
    window.visit(Station.PROOF)
    settle(window)
    view = window.bench.views[Station.PROOF]
    inspector, canvas = view.inspector, view.picture.findChild(ProofCanvas)
    assert isinstance(inspector, ProofInspector) and isinstance(canvas, ProofCanvas)
    form = inspector.look
    return form, canvas


def chosen(combo, words: str) -> None:  # type: ignore[no-untyped-def]
    index = combo.findText(words)
    assert index >= 0, words
    combo.setCurrentIndex(index)
    combo.activated.emit(index)


@pytest.mark.long
def test_what_is_said_of_the_look_follows_where_it_is_seen(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Not while another station is; and also where another thing of the proof is open."""
    form, _ = station(window)
    inspector = window.bench.views[Station.PROOF].inspector
    said, refreshed = form._opacity.text(), list[str]()
    inspector.choose(inspector.shake.thing)
    window.visit(Station.LAYERS)
    settle(window)
    show = LookForm.refresh
    monkeypatch.setattr(LookForm, "refresh", lambda self: (refreshed.append(""), show(self)))
    window.session.edit(
        "Hits", lambda job: job.replace(stack=tuple(la.replace(hits=3) for la in job.stack))
    )
    settle(window)
    assert not refreshed and form._opacity.text() == said
    window.visit(Station.PROOF), settle(window)
    assert len(refreshed) == 1 and "3 hits" in form._opacity.text()


def test_surfaces_are_tried_and_taken(window: MainWindow) -> None:
    form, canvas = station(window)
    before, job = grabbed(canvas), window.session.job
    chosen(form.surface, "red")
    settle(window)
    assert np.abs(grabbed(canvas) - before).mean() > 1 and window.session.job is job
    form._take.click()
    settle(window)
    assert window.session.job.piece.surface.name == "red"  # type: ignore[union-attr]
    assert canvas.looks.wanted.view.surface is None and not form._take.isVisibleTo(form)
    chosen(form.side, "behind")
    settle(window)
    look = canvas.looks.whole.look  # type: ignore[union-attr]
    assert (look == look[0, 0]).all()


@pytest.mark.long
def test_the_look_is_wiped_to_others(window: MainWindow) -> None:
    form, canvas = station(window)
    chosen(form.wipe_to, "one hit of white more")
    settle(window)
    scene_ = canvas.looks.whole
    assert scene_ is not None and scene_.other is not None and canvas.wiping
    assert scene_.other.astype(int).sum() > scene_.look.astype(int).sum()
    form.keep()
    window.session.edit("Off", lambda j: j.replace(stack=(COLOUR,)))
    settle(window)
    chosen(form.wipe_to, "the look that was kept")
    settle(window)
    again = canvas.looks.whole
    assert again is not None and again.other is not None
    assert (again.other == scene_.look).all() and (again.look != scene_.look).any()
    left, right = canvas.at(-3, 0), canvas.at(3, 0)
    line = canvas.at(0, 0).toPoint()
    before = grabbed(canvas)
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=line)
    QTest.mouseMove(canvas, left.toPoint())
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=left.toPoint())
    assert canvas.wipe == pytest.approx(0.5 - 3 / again.part.size[0], abs=0.01)
    assert np.abs(grabbed(canvas) - before).mean() > 0.05 and right.x() > left.x()
    QTest.keyClick(canvas, Qt.Key.Key_W), settle(window)
    assert not canvas.wiping and form.wipe_to.currentText() == "nothing"
    form.wipe(ARTWORK)
    settle(window)
    assert canvas.wiping and form.wipe_to.currentText() == "the artwork"
    # Another piece is looked at afresh.
    window.session.edit(
        "Piece", lambda j: j.replace(piece=j.piece.replace(shape=Circle(diameter=9)))
    )
    settle(window)
    assert canvas.looks.wanted.against is None


@pytest.mark.long
def test_zooming_in_shows_single_output_pixels(window: MainWindow) -> None:
    """The picture is that of the plates as they will be written, and so is the loupe."""
    job = window.session.job
    assert job is not None
    big = job.replace(
        printer=job.printer.replace(dpi_x=600, dpi_y=900),
        piece=job.piece.replace(shape=Circle(diameter=60)),
        stack=(WHITE_UNDER.replace(source=WholePiece(), treatments=()), COLOUR),
    )
    window.session.edit("Finer", lambda _: big)
    form, canvas = station(window)
    whole = canvas.looks.whole
    assert whole is not None
    canvas.zoom(40, canvas.at(0.4, 0.3))
    canvas.look_closer()
    settle(window)
    detail = canvas.looks.detail
    assert detail is not None
    grid = detail.part.grid
    assert grid == Grid(600, 900) and grid.dpi_x > whole.part.grid.dpi_x * 1.5
    sharp = glimpse(big, window.session.store, grid)
    row, column = sharp.pixel_at(0.4, 0.3)  # type: ignore[misc]
    near = detail.part.pixel_at(0.4, 0.3)
    assert near is not None
    assert [p[near] for p in detail.part.plates] == [p[row, column] for p in sharp.plates]
    canvas.pointed.emit(QPointF(0.4, 0.3))
    cyan = detail.part.plates_of("Colour")[0][near] / 2.55
    assert f"Cyan  {cyan:.0f} %" in form._values.text()
    for shown in set(Shown) - {Shown.BODY}:
        form.choose(shown)
        settle(window)
        assert canvas.looks.detail is not None and canvas.looks.detail.wanted.shown is shown
        assert np.ptp(grabbed(canvas)) > 0
    canvas.fit()
    assert canvas.looks.detail is None


def test_reader_through_and_face_words(window: MainWindow) -> None:
    window.session.edit("Through", lambda j: j.replace(
        reader=Reader.THROUGH, piece=j.piece.replace(surface=Surface(material=Material.CLEAR))
    ))  # fmt: skip
    form, canvas = station(window)
    assert form.behind.isVisibleTo(form) and form.side.itemText(1) == "the face"
    before = grabbed(canvas)
    chosen(form.behind, "a street in the sun")
    settle(window)
    assert np.abs(grabbed(canvas) - before).mean() > 1
    window.switch_outlines()
    settle(window)
    assert canvas.shown is Shown.OUTLINES
    window.switch_outlines()
    assert canvas.shown is Shown.LOOK
