"""Plates of pieces and beds: same everywhere, bounded memory, right positions."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from conftest import artwork_of
from farbe.art.artwork import Artwork, Space
from farbe.art.profiles import shipped_profile
from farbe.edits.stack import renamed, with_choke
from farbe.files.store import ArtStore
from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.layout.frame import BedFrame, printer_frame
from farbe.layout.laid import places
from farbe.layout.outline import outline
from farbe.layout.placing import ArtworkBox, artwork_box
from farbe.model.base import BadInput
from farbe.model.layer import COLOUR, WHITE_UNDER, Layer
from farbe.model.piece import Circle, Ellipse, Reader, Rectangle
from farbe.model.placing import Fit, Placing, PocketChange
from farbe.model.printer import LayerKind
from farbe.model.source import ArtworkShape, AsLayer, WholePiece
from farbe.model.text import TextBox
from farbe.model.treatment import Choke, Curve, Holes, Shift
from farbe.plan.order import channels
from farbe.plan.readers import with_two_readers
from farbe.render import glimpse as glimpses
from farbe.render import onepass, piecetile
from farbe.render.bed import job_bed
from farbe.render.glimpse import glimpse
from farbe.render.guide import guide_bed
from farbe.render.piece import piece_separation
from farbe.render.pieceframe import PieceFrame, place, ring_pixels
from farbe.render.piecetile import job_tile, side_by_side
from farbe.separate import former, treat
from farbe.separate import place as placed
from farbe.separate.choke import Plate
from farbe.separate.colour import Converter
from farbe.separate.grid import Grid
from farbe.separate.outline import covers_all, rasterise
from farbe.separate.place import PlacedArtwork
from farbe.separate.plates import Separation
from farbe.survey import look, prints

PROFILE = shipped_profile()


def bed_pixels(job: Faced, store: ArtStore) -> np.ndarray:
    bed = job_bed(job, store)
    width, height = bed.size
    parts = []
    for start in range(0, height, 37):
        stop = min(start + 37, height)
        rows = bed.rows(start, stop)
        empty = np.zeros((stop - start, width, len(bed.channels)), np.uint8)
        parts.append(empty if rows is None else rows)
    return np.concatenate(parts)


def test_a_bed_is_its_pockets_each_rounded_by_itself(job: Faced, store: ArtStore) -> None:
    pixels = bed_pixels(job, store)
    frame = printer_frame(job)
    canvas = PieceFrame.for_print(job, frame.grid)
    tile = job_tile(job, store, frame.grid, canvas=canvas)
    width, height = tile.size
    alone = tile.rows(0, height)
    rest = pixels.copy()
    for pocket in places(job):
        column, row = frame.corner(pocket.x, pocket.y, (width, height), canvas.middle)
        part = (slice(row, row + height), slice(column, column + width))
        assert np.array_equal(pixels[part], alone)
        rest[part] = 0
        middle = (column + canvas.middle[0]) / frame.grid.per_mm_x
        assert abs(middle - pocket.x) * frame.grid.per_mm_x <= 0.5 + 1e-9
    assert not rest.any()


def test_any_rows_are_the_same_rows(job: Faced, store: ArtStore) -> None:
    grid = Grid(400, 260)
    separation = piece_separation(job, store, grid)
    height = separation.size[1]
    whole = separation.plates(0, height)
    for start in range(0, height, 29):
        stop = min(height, start + 29)
        for part, plate in zip(separation.plates(start, stop), whole, strict=True):
            assert np.array_equal(part, plate[start:stop])


@pytest.mark.parametrize("turned", [0, 90, 180, 270])
def test_tiles_made_by_parts_are_those_made_at_once(
    job: Faced, store: ArtStore, monkeypatch: pytest.MonkeyPatch, turned: int
) -> None:
    """Parts in several threads, at whose edges chokes look beyond them."""
    monkeypatch.setattr(piecetile, "PART", 16)
    of, grid = job.replace(jig=job.jig.replace(turned=turned)), Grid(300, 420)
    kept, fresh = (job_tile(of, store, grid, kept=kept) for kept in (True, False))
    straight = fresh.upright if isinstance(fresh, piecetile.Turned) else fresh
    assert straight.size[1] > 3 * piecetile.PART
    wanted = np.rot90(straight.rows(0, straight.size[1]), turned // 90)
    for tile in (kept, fresh):
        assert np.array_equal(tile.rows(0, tile.size[1]), wanted)
        assert np.array_equal(tile.rows(5, 40), wanted[5:40])


@pytest.mark.parametrize("reader", [Reader.FACE, Reader.THROUGH])
@pytest.mark.parametrize("turned", [0, 90])
def test_what_was_looked_at_is_handed_off_without_separating_it_again(
    job: Faced, store: ArtStore, monkeypatch: pytest.MonkeyPatch, reader: Reader, turned: int
) -> None:
    """Byte for byte; two prints, several pockets turned by themselves, looked at in strips."""
    monkeypatch.setattr(look, "STRIP_PIXELS", 5000)
    monkeypatch.setattr(look, "FEWEST", 8)
    changes = (PocketChange(pocket=1, rotation=8.0), PocketChange(pocket=7, rotation=8.0))
    of = job.replace(reader=reader, changes=changes, jig=job.jig.replace(turned=turned))
    alone = bed_pixels(of, store)

    def refused(*_: object) -> list[np.ndarray]:
        raise AssertionError("separated again")

    for room in (onepass.MOST, 1000):
        monkeypatch.setattr(onepass, "MOST", room)
        monkeypatch.setattr(prints, "_KEPT", Kept(9))
        with onepass.one_pass(), monkeypatch.context() as only:
            assert len(prints.surveys(of, store)) == 2
            if room > 1000:
                only.setattr(Separation, "together", refused)
            assert np.array_equal(bed_pixels(of, store), alone)
        assert onepass._now is None
    # Where nothing prints there is nothing to be kept.
    with onepass.one_pass():
        dark = tuple(layer.replace(on=False) for layer in of.stack)
        prints.surveys(of.replace(stack=dark), store)


def test_the_artwork_is_seen_once_for_all_edits_of_plates(
    job: Faced, store: ArtStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    """And anew for all that changes it, as its colour plates: where it lies, the piece, type."""
    grid = Grid(150, 210)

    monkeypatch.setattr(glimpses, "_SCENES", Kept(9))
    first = glimpse(job, store, grid).artwork
    thick = tuple(
        layer.replace(treatments=(Choke(by=0.4),)) if layer.kind is LayerKind.WHITE else layer
        for layer in job.stack
    )
    assert thick != job.stack
    choked, plain = (glimpse(job.replace(stack=stack), store, grid) for stack in (thick, job.stack))
    assert choked.artwork is first
    assert [a is b for a, b in zip(choked.plates, plain.plates, strict=True)] == [
        layer.kind is not LayerKind.WHITE for layer in job.stack for _ in range(layer.plates)
    ]
    typed = TextBox(text="Nr. 7", width=8, height=3, size=2.0, colour="#204060")
    for other in (
        job.replace(placing=job.placing.replace(offset_x=1.0)),
        job.replace(bleed=0.7),
        job.replace(texts=(typed,)),
        job.replace(texts=(typed.replace(colour="#802010"),)),
        job.replace(artworks=(job.artworks[0].replace(width=job.artworks[0].width * 0.7),),
                    placing=job.placing.replace(fit=Fit.ACTUAL)),
        job.replace(conversion=job.conversion.replace(total=150.0)),
        job.replace(see_through=Holes(size=0.5, spacing=1.0)),
    ):  # fmt: skip
        seen = glimpse(other, store, grid)
        with monkeypatch.context() as alone:
            alone.setattr(glimpses, "_SCENES", Kept(9))
            found = glimpse(other, store, grid)
        assert np.array_equal(found.artwork, seen.artwork)
        assert all(np.array_equal(*pair) for pair in zip(found.plates, seen.plates, strict=True))
        assert seen.artwork.shape != first.shape or not (
            np.array_equal(seen.artwork, first)
            and all(np.array_equal(*pair) for pair in zip(plain.plates, seen.plates, strict=True))
        )
    for kept in (first, *plain.plates):
        with pytest.raises(ValueError, match="read-only"):
            kept[0, 0] = 1


def test_what_is_done_after_a_choke_has_no_picture_choked_again(
    job: Faced, store: ArtStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    grid, asked = Grid(150, 210), list[object]()
    real = treat.choke
    monkeypatch.setattr(treat, "choke", lambda *given: (asked.append(given), real(*given))[1])

    def shown(percent: float, artwork: float = 0.0) -> list[Plate]:
        then = Curve(points=((0.0, 0.0), (100.0, percent)))
        stack = tuple(
            layer.replace(treatments=(Choke(by=0.27, least=0.1), then))
            if layer.kind is LayerKind.WHITE else layer for layer in job.stack
        )  # fmt: skip
        asked.clear()
        moved = job.placing.replace(offset_x=artwork)
        return glimpse(job.replace(stack=stack, placing=moved), store, grid).plates

    full, other = shown(100.0), shown(50.0)
    assert not asked
    assert any((half != whole).any() for half, whole in zip(other, full, strict=True))
    shown(50.0, artwork=0.3)
    assert asked


def test_artwork_that_moves_is_drawn_back_and_converted_once(
    job: Faced, store: ArtStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    """However it is parted; beyond the piece, what is taken of it counts."""
    grid, asked = Grid(300, 420), list[object]()
    monkeypatch.setattr(former, "MANY", 0)
    monkeypatch.setattr(glimpses, "FEW_ROWS", 20)
    small = job.artworks[0].replace(width=4.0, height=7.5)
    job = job.replace(artworks=(small,), placing=job.placing.replace(fit=Fit.ACTUAL))
    choke, convert = treat.choke, Converter.__call__
    monkeypatch.setattr(treat, "choke", lambda *how: (asked.append(how), choke(*how))[1])
    monkeypatch.setattr(
        Converter, "__call__", lambda *how: (asked.append(how[1]), convert(*how))[1]
    )

    def parts(right: float, up: float) -> tuple[list[np.ndarray], list[object]]:
        asked.clear()
        moved = job.placing.replace(offset_x=right, offset_y=up)
        part = glimpse(job.replace(placing=moved), store, grid)
        return [*part.plates, part.artwork], list(asked)

    first, made = parts(0.0, 0.0)
    assert len(made) == 3
    for right, up in ((0.5, 0.0), (0.0, -0.7), (-0.9, 0.8), (5.0, 0.4), (-4.5, 2.0)):
        seen, made = parts(right, up)
        within = abs(right) < 2.0
        assert bool(made) != within
        if within:
            # The very pixels elsewhere.
            at = round(right * grid.per_mm_x), -round(up * grid.per_mm_y)
            assert all(
                any(
                    np.array_equal(np.roll(was, (at[0] + x, at[1] + y), (1, 0)), now)
                    for x in (-1, 0, 1) for y in (-1, 0, 1)
                )
                for was, now in zip(first, seen, strict=True)
            )  # fmt: skip
        with monkeypatch.context() as alone:
            alone.setattr(glimpses, "_SCENES", Kept(9))
            alone.setattr(treat, "_CHOKED", Kept(9))
            alone.setattr(placed, "_SMALL", Kept(9))
            found, _ = parts(right, up)
        assert all(map(np.array_equal, found, seen))
    for right, up in ((40.0, 0.0), (9.0, 0.0), (-9.0, 0.0), (0.0, 40.0), (-40.0, -40.0)):
        assert not any(plate.any() for plate in parts(right, up)[0])


def test_strokes_that_end_with_their_artwork_are_spared_in_pictures_too(
    job: Faced, store: ArtStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    lines = np.zeros((60, 40, 4), np.uint8)
    lines[:, 4::8, 3] = 255
    Image.fromarray(lines).save(tmp_path / "lines.png", dpi=(150, 150))
    drawn = store.add_artwork(tmp_path / "lines.png").replace(width=5.0, height=7.5)
    plain = job.placing.replace(fit=Fit.ACTUAL)
    monkeypatch.setattr(glimpses, "FEW_ROWS", 20)
    for up in (0.0, 0.8, 3.0):
        of = job.replace(artworks=(drawn,), placing=plain.replace(offset_y=up))
        grid = Grid(300, 420)
        separation = piece_separation(of, store, grid)
        alone = separation.plates(0, separation.size[1])
        assert all(map(np.array_equal, glimpse(of, store, grid).plates, alone))
        # Lines of 0.125 mm that are drawn back by 0.1 stay for 0.1.
        assert (alone[0].max(axis=1) > 128).sum() > 0.9 * 7.5 * 0.6 * grid.per_mm_y


@settings(max_examples=30)
@given(
    seed=st.integers(0, 10**6),
    rows=st.sampled_from((12, 30, 150)),
    grid=st.sampled_from((Grid(150, 150), Grid(200, 280))),
    edits=st.lists(
        st.tuples(
            st.floats(-9.0, 9.0), st.floats(-9.0, 9.0), st.floats(0.03, 0.5),
            st.sampled_from((0, 0, 90, 17)),
        ),
        min_size=1, max_size=4,
    ),
)  # fmt: skip
def test_pictures_show_strokes_as_they_are_printed_wherever_they_lie(
    job: Faced, store: ArtStore, seed: int, rows: int, grid: Grid,
    edits: list[tuple[float, float, float, int]],
) -> None:  # fmt: skip
    """Whatever is kept of the pictures before, also of strokes that the piece's edge cuts."""
    rng = np.random.default_rng(seed)
    page = Image.new("LA", tuple(rng.integers(30, 120, 2).tolist()))
    for _ in range(8):
        ends = tuple(rng.integers(-20, 140, 4).tolist())
        level, wide = int(rng.choice((90, 255))), int(rng.integers(1, 6))
        ImageDraw.Draw(page).line(ends, fill=(0, level), width=wide)
    art = store.folder.parent / f"{seed}.png"
    page.convert("RGBA").save(art, dpi=(150, 150))
    drawn = store.add_artwork(art)
    drawn = drawn.replace(width=drawn.width * 0.6, height=drawn.height * 0.6)
    for right, up, by, turn in edits:
        lies = Placing(fit=Fit.ACTUAL, offset_x=right, offset_y=up, rotation=turn)
        now = job.replace(
            artworks=(drawn,), placing=lies, stack=(with_choke(WHITE_UNDER, by), COLOUR)
        )
        separation = piece_separation(now, store, grid)
        printed = separation.plates(0, separation.size[1])
        with pytest.MonkeyPatch.context() as parted:
            parted.setattr(glimpses, "FEW_ROWS", rows)
            shown = glimpse(now, store, grid).plates
        assert all(map(np.array_equal, shown, printed))


@settings(max_examples=40)
@given(data=st.data())
def test_plates_of_pictures_follow_all_that_they_come_from(
    job: Faced, store: ArtStore, data: st.DataObject
) -> None:
    """After any edits they are what a look without any before it finds, however layers refer."""
    names = ("Colour", "White", "Varnish", "Seen through")
    source = st.one_of(
        st.just(ArtworkShape()), st.just(WholePiece()),
        st.sampled_from(names).map(lambda name: AsLayer(name=name)),
    )  # fmt: skip
    treatment = st.one_of(
        st.builds(
            Choke,
            # Few of them, so that one comes again, and any others.
            by=st.one_of(st.sampled_from((0.1, 0.2)), st.floats(0.05, 0.4)),
            least=st.sampled_from((0.0, 0.3)),
            holes=st.sampled_from((None, 0.3)),
        ),
        st.builds(Holes, size=st.floats(0.4, 0.9), solid=st.one_of(st.none(), source)),
        st.just(Curve(points=((0.0, 20.0), (100.0, 80.0)))),
    )

    def layer(kind: LayerKind, name: str) -> Layer:
        return Layer(kind=kind, name=name, source=data.draw(source), reader=data.draw(reader),
                     treatments=tuple(data.draw(st.lists(treatment, max_size=2))),
                     on=data.draw(st.booleans()))  # fmt: skip

    two = data.draw(st.booleans())
    reader = st.sampled_from((None, *Reader)) if two else st.none()
    now = with_two_readers(job) if two else job
    place, rows = st.floats(-4.0, 4.0), data.draw(st.sampled_from((12, 150)))
    for _ in range(3):
        stack = (
            layer(LayerKind.VARNISH, "Varnish"), COLOUR, layer(LayerKind.WHITE, "White"),
            layer(LayerKind.WHITE, "Seen through"),
        )  # fmt: skip
        hole = data.draw(st.one_of(st.none(), st.builds(Holes, size=st.just(0.7), solid=source)))
        moved = now.placing.replace(offset_x=data.draw(place), offset_y=data.draw(place))
        now = now.replace(stack=stack, see_through=hole, placing=moved)
        grid = Grid(100, 140)
        with pytest.MonkeyPatch.context() as parted:
            parted.setattr(glimpses, "FEW_ROWS", rows)
            # However little there is to be made.
            parted.setattr(former, "MANY", 0)
            warm = glimpse(now, store, grid)
        with pytest.MonkeyPatch.context() as alone:
            alone.setattr(glimpses, "_SCENES", Kept(9))
            alone.setattr(treat, "_CHOKED", Kept(9))
            alone.setattr(placed, "_SMALL", Kept(9))
            cold = glimpse(now, store, grid)
        # Whatever a layer is called, those that come from it still do.
        called = glimpse(renamed(now, data.draw(st.sampled_from(names)), "Another"), store, grid)
        for found in (warm, called):
            assert len(found.plates) == len(cold.plates)
            assert all(map(np.array_equal, found.plates, cold.plates))


def test_mirrored_for_a_reader_who_looks_through(job: Faced, store: ArtStore) -> None:
    grid = Grid(150, 210)
    face = piece_separation(job, store, grid).plates(0, 40)
    through = piece_separation(job.replace(reader=Reader.THROUGH), store, grid)
    for there, here in zip(through.plates(0, 40), face, strict=True):
        assert np.array_equal(there[:, ::-1], here)
    assert not np.array_equal(face[1], face[1][:, ::-1])


def test_guide_surrounds_the_artwork_to_a_pixel(job: Faced, store: ArtStore) -> None:
    guide = guide_bed(job.replace(guide=job.guide.replace(numbers=False)))
    lines = guide.rows(0, guide.size[1])
    assert lines is not None
    whole = Layer(kind=LayerKind.WHITE, name="White", source=WholePiece())
    over = job.replace(stack=(whole,))
    pieces = bed_pixels(over, store)[..., 0] >= 128
    grid = guide.grid
    for pocket in places(job):
        x, y = pocket.x * grid.per_mm_x, (60 - pocket.y) * grid.per_mm_y
        row, column = int(y), int(x)
        across, along = lines[row, :, 0], lines[:, column, 0]
        for line, solid, at in (
            (across, pieces[row], column),
            (along, pieces[:, column], row),
        ):
            before, after = at - np.argmax(line[at::-1]), at + np.argmax(line[at:])
            first, last = at - np.argmin(solid[at::-1]), at + np.argmin(solid[at:])
            # The gap between piece and line is the same on both sides, to a pixel.
            assert abs((first - before) - (after - last)) <= 1
            assert first - before >= 1


@settings(max_examples=60)
@given(
    st.floats(0.01, 50), st.integers(0, 900), st.floats(0, 30), st.floats(60, 1500),
    st.integers(1, 5000),
)  # fmt: skip
def test_rounding_never_drifts(
    pitch: float, count: int, first: float, dpi: float, tile: int
) -> None:
    frame = BedFrame(60_000, 10, Grid(dpi, dpi))
    column, _ = frame.corner(first + count * pitch, 5.0, (tile, tile))
    exact = (first + count * pitch) * dpi / 25.4 - tile / 2
    assert abs(column - exact) <= 0.5 + 1e-6


@pytest.mark.parametrize(
    "shape",
    [
        Circle(diameter=20),
        Ellipse(width=31, height=12),
        Rectangle(width=30, height=20, corner_radius=4),
    ],
)
def test_outlines_cover_their_area(shape: Circle | Ellipse | Rectangle) -> None:
    grid = Grid(300, 450)
    size = grid.size(shape.width + 2, shape.height + 2)
    covered = rasterise(ring_pixels(shape, 0, PieceFrame(grid, size)), size[0], 0, size[1])
    area = covered.sum() / 255 / grid.per_mm_x / grid.per_mm_y
    assert area == pytest.approx(outline(shape).area, rel=1e-3)
    grown = rasterise(ring_pixels(shape, 0.5, PieceFrame(grid, size)), size[0], 0, size[1])
    assert np.all(grown >= covered)


def test_what_covers_all_at_a_glance_covers_all() -> None:
    rng, seen = np.random.default_rng(2), 0
    # Parts of a pixel that show as a level, and such that do not.
    off = [0.0, 1e-4, 4e-4, 3e-3, 0.2, -3e-3, -2.0]
    for _ in range(600):
        (left, top, right, bottom), start = rng.choice(off, 4), int(rng.integers(0, 9))
        high, low = start + top, 20 - bottom
        ring = np.array([(left, high), (40 - right, high), (40 - right, low), (left, low)])
        ring = np.roll(ring[:: rng.choice((1, -1))], rng.integers(4), axis=0)
        if covers_all((ring,), 40, start, 20):
            seen += 1
            assert (rasterise((ring,), 40, start, 20) == 255).all()
    assert 60 < seen < 300
    crossed = np.array([(0.0, 0.0), (40.0, 20.0), (40.0, 0.0), (0.0, 20.0)])
    assert not covers_all((crossed,), 40, 0, 20)


def test_resampling_keeps_colour_at_transparent_edges() -> None:
    alpha = np.zeros((40, 40), np.uint8)
    alpha[10:30, 10:30] = 255
    art = artwork_of(alpha, (200, 60, 30))
    art.pixels[alpha == 0] = 0
    for size in ((95, 77), (17, 23)):
        placed = PlacedArtwork(art, size, size)
        alpha_ = placed.alpha(0, size[1]).astype(float)[..., None] / 255
        off = np.abs(placed.colours(0, size[1]).astype(float) - (200, 60, 30)) * alpha_
        # What prints is colour times alpha; a fringe would be off by dozens of levels.
        assert off.max() <= 2


def test_second_layers_of_an_ink_have_channels_of_their_own(job: Faced) -> None:
    second = Layer(kind=LayerKind.WHITE, name="Highlights", treatments=(Choke(by=0.3),))
    names = [c.name for c in channels(job.replace(stack=(*job.stack, second)))]
    assert names == ["Cyan", "Magenta", "Yellow", "Black", "White", "Highlights", "Varnish"]


def test_nothing_to_print_is_said(job: Faced, store: ArtStore) -> None:
    off = job.replace(stack=tuple(layer.replace(on=False) for layer in job.stack))
    with pytest.raises(BadInput, match="No layer"):
        job_bed(off, store)
    empty = job.replace(jig=job.jig.replace(off=frozenset(range(1, 13))))
    with pytest.raises(BadInput, match="pockets"):
        job_bed(empty, store)


MEMORY = """
import resource, sys
from pathlib import Path
from farbe.files.store import ArtStore
from farbe.files.tiff import write_tiff
from farbe.files.jobfile import open_job
from farbe.layout.faced import Faced
from farbe.render.bed import job_bed
job_path, folder, side = Path(sys.argv[1]), Path(sys.argv[2]), float(sys.argv[3])
store = ArtStore(folder / "store")
job = Faced(open_job(job_path, store))
count = int(side // 16)
job = job.replace(
    printer=job.printer.replace(bed_width=side, bed_height=side, dpi_x=300, dpi_y=300),
    jig=job.jig.replace(columns=count, rows=count, first_x=1, first_y=1),
)
bed = job_bed(job, store)
write_tiff(bed, folder / "bed.tif", compression=job.receiver.compression)
print(bed.size[0] * bed.size[1], resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)
"""


@pytest.mark.long
def test_memory_does_not_grow_with_the_bed(job: Faced, store: ArtStore, tmp_path) -> None:  # type: ignore[no-untyped-def]
    from farbe.files.jobfile import save_job

    path = tmp_path / "job.farbe"
    save_job(job.job, store, path)

    def peak(side: float) -> tuple[int, int]:
        done = subprocess.run(
            [sys.executable, "-c", MEMORY, str(path), str(tmp_path), str(side)],
            check=True, capture_output=True, text=True,
        )  # fmt: skip
        pixels, kilobytes = done.stdout.split()
        return int(pixels), int(kilobytes)

    (small, little), (large, much) = peak(200), peak(600)
    assert large > 8.9 * small
    # The larger bed as an array would be 300 MB; a strip of it is three times as wide.
    assert much - little < 40_000


def test_the_order_of_stack_and_file_are_apart(job: Faced) -> None:
    """A stack in another order gives the same channels."""
    turned = replace_stack(job)
    assert [c.name for c in channels(turned)] == [c.name for c in channels(job)]


def replace_stack(job: Faced) -> Faced:
    return job.replace(stack=job.stack[::-1])


def reference(
    art: np.ndarray,
    size_mm: tuple[float, float],
    degrees: float,
    mirror: bool,
    middle: tuple[float, float],
    canvas: tuple[int, int],
    grid: Grid,
) -> np.ndarray:
    """Alpha by sampling the artwork point by point, nine points to a pixel."""
    import math

    turn = math.radians(degrees)
    total = np.zeros(canvas[::-1])
    for sx in (1 / 6, 1 / 2, 5 / 6):
        for sy in (1 / 6, 1 / 2, 5 / 6):
            y, x = np.mgrid[0 : canvas[1], 0 : canvas[0]]
            dx = (x + sx - middle[0]) / grid.per_mm_x
            dy = -(y + sy - middle[1]) / grid.per_mm_y
            u = dx * math.cos(turn) + dy * math.sin(turn)
            v = -dx * math.sin(turn) + dy * math.cos(turn)
            u = -u if mirror else u
            column = np.floor((u / size_mm[0] + 0.5) * art.shape[1]).astype(int)
            row = np.floor((0.5 - v / size_mm[1]) * art.shape[0]).astype(int)
            inside = (column >= 0) & (column < art.shape[1]) & (row >= 0) & (row < art.shape[0])
            total += np.where(
                inside, art[row.clip(0, art.shape[0] - 1), column.clip(0, art.shape[1] - 1)], 0
            )
    return total / 9


@pytest.mark.parametrize("degrees", [0, 90, 180, 270, 30, -77.5])
@pytest.mark.parametrize("mirror", [False, True])
def test_turned_and_mirrored_artwork_lies_where_geometry_says(
    job: Faced, degrees: float, mirror: bool
) -> None:
    """Against point sampling that shares nothing with the code under test."""
    art = np.zeros((120, 160), np.uint8)
    art[10:110, 12:60], art[10:50, 60:150] = 255, 255
    shape = Rectangle(width=30, height=26)
    of = job.replace(
        piece=job.piece.replace(shape=shape),
        artworks=(job.artworks[0].replace(width=16, height=12),),
        placing=Placing(rotation=degrees, mirror=mirror, offset_x=2.5, offset_y=-1.5),
    )
    grid = Grid(200, 320)
    placed = place(of, artwork_of(art), PieceFrame.of(of, grid))
    found = placed.alpha(0, placed.canvas[1]).astype(float)
    middle = (
        placed.canvas[0] / 2 + 2.5 * grid.per_mm_x,
        placed.canvas[1] / 2 + 1.5 * grid.per_mm_y,
    )
    wanted = reference(art, (16, 12), degrees, mirror, middle, placed.canvas, grid)
    # Edges may differ by a part of a pixel; areas and places may not.
    assert np.abs(found - wanted).mean() < 3.5
    assert found.sum() == pytest.approx(wanted.sum(), rel=0.01)
    for start in (0, 37, 100, 130):
        part = placed.alpha(start, start + 60)
        assert np.array_equal(part[: placed.canvas[1] - start], found[start : start + 60])


def test_alignment_fit_and_margin(job: Faced, store: ArtStore) -> None:
    shape = Rectangle(width=40, height=20)
    of = job.replace(
        piece=job.piece.replace(shape=shape),
        artworks=(job.artworks[0].replace(width=6, height=4),),
    )

    def lies(**fields: object) -> ArtworkBox:
        found = artwork_box(of.replace(placing=Placing(**fields)))
        assert found is not None
        return found

    corner = lies(across="left", along="top", margin=1)
    assert (corner.x, corner.y) == pytest.approx((-20 + 1 + 3, 10 - 1 - 2))
    assert (lies(fit="fit").width, lies(fit="fit").height) == pytest.approx((30, 20))
    assert (lies(fit="fill").width, lies(fit="fill").height) == pytest.approx((40, 80 / 3))
    upright = lies(fit="fit", rotation=90, margin=2)
    assert upright.width == pytest.approx(16) and upright.height == pytest.approx(32 / 3)
    with pytest.raises(BadInput, match="leaves nothing"):
        lies(margin=11)
    inside = of.replace(placing=Placing(fit="fill", margin=3))
    white = artwork_of(np.full((9, 9), 255, np.uint8))
    bare = place(inside, white, PieceFrame.of(inside, Grid(254, 254)))
    printed = np.argwhere(bare.alpha(0, 200) >= 128)
    assert printed.min(axis=0).tolist() == [30, 30]
    assert printed.max(axis=0).tolist() == [169, 369]


@pytest.mark.parametrize("offset", [(0, 0), (-7, -9), (5, 3)])
@pytest.mark.parametrize("drawn", [(60, 300), (90, 420)])
def test_rows_of_artwork_are_those_of_all_of_it(
    offset: tuple[int, int], drawn: tuple[int, int]
) -> None:
    """In one part or several, wider than the canvas or not; and what is given out is its own."""
    rng = np.random.default_rng(2)
    art = Artwork(rng.integers(0, 256, (300, 60, 4)).astype(np.uint8), Space.RGB, None, None)
    placed = PlacedArtwork(art, (50, 280), drawn, offset, blocks=1)
    whole, alpha = placed.colours(0, 280), placed.alpha(0, 280)
    for start, stop in ((0, 40), (100, 160), (-5, 20), (260, 290), (130, 130)):
        low, high = max(0, start), min(280, stop)
        rows, cover = placed.colours(start, stop), placed.alpha(start, stop)
        assert rows.shape == (stop - start, 50, 3) and cover.shape == (stop - start, 50)
        assert np.array_equal(rows[low - start : high - start], whole[low:high])
        assert np.array_equal(cover[low - start : high - start], alpha[low:high])
        assert not rows[: low - start].any() and not rows[high - start :].any()
        assert np.array_equal(placed.pixels(start, stop), np.dstack([rows, cover]))
        rows[...], cover[...] = 1, 1
    assert np.array_equal(placed.colours(0, 280), whole)
    assert np.array_equal(placed.alpha(0, 280), alpha)


@given(st.permutations(range(7)), st.integers(3, 7), st.sampled_from([(1, 4, 1, 1), (4, 1, 1, 1)]))
def test_plates_lie_side_by_side_in_the_order_of_the_channels(
    order: list[int], count: int, layers: tuple[int, ...]
) -> None:
    rng = np.random.default_rng(count)
    made = [rng.integers(0, 256, (5, 9, plates), dtype=np.uint8) for plates in layers]
    into = np.zeros((5, 9, count), np.uint8)
    for chosen in (tuple(order[:count]), tuple(range(count))):
        side_by_side(made, chosen, into)
        assert np.array_equal(into, np.dstack(made)[..., list(chosen)])


@pytest.mark.parametrize("reader", [Reader.FACE, Reader.THROUGH])
@pytest.mark.parametrize("turn", [0.0, 7.0])
def test_a_tile_made_by_few_rows_is_that_of_all_plates(
    job: Faced, store: ArtStore, reader: Reader, turn: float, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Colour that looks at its own rows alone is made by few rows, the rest at once."""
    monkeypatch.setattr(piecetile, "FEW_PIXELS", 500)
    curve = Curve(points=((0, 0), (50, 90), (100, 100)))
    bright = COLOUR.replace(name="Bright", treatments=(curve,))
    moved = COLOUR.replace(name="Moved", treatments=(Shift(x=0.3, y=0.7),))
    for stack in ((COLOUR,), (WHITE_UNDER, COLOUR), (bright, WHITE_UNDER), (moved, COLOUR)):
        of = piece_separation(
            job.replace(stack=stack, reader=reader), store, Grid(120, 90), turn=turn
        )
        assert [of.looks_around(layer) for layer in of.layers] == [
            layer.name in ("White", "Moved") for layer in of.layers
        ]
        order = tuple(reversed(range(of.count)))
        tile = piecetile.PieceTile(of, order, kept=False)
        whole = np.dstack(of.plates(0, of.size[1]))[..., list(order)]
        assert whole.any() and of.size[1] > 3 * piecetile.few_rows(of.size[0])
        for start, stop in ((0, of.size[1]), (5, 31)):
            assert np.array_equal(tile.rows(start, stop), whole[start:stop])
