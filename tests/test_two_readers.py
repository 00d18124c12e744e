"""A clear piece with two readers: what each of them sees, and what is printed once for both."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from conftest import behind, small_art, some
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.files.jobfile import open_job, save_job
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.holes import open_share
from farbe.model.base import BadInput
from farbe.model.layer import WHITE_UNDER
from farbe.model.piece import Circle, Material, Outline, Reader, Surface
from farbe.model.placing import Placing
from farbe.model.printer import LayerKind
from farbe.model.source import Region, WholePiece
from farbe.model.treatment import Holes, HoleShape
from farbe.optics.view import View, seen_as
from farbe.plan.order import channels
from farbe.plan.readers import own_layers, with_one_reader, with_two_readers
from farbe.plan.recipes import recipe, with_recipe
from farbe.render.bed import job_bed
from farbe.render.glimpse import glimpse
from farbe.render.piece import piece_separation
from farbe.separate.choke import choke
from farbe.separate.grid import Grid

GRID = Grid(300, 450)
#: Unlike its mirror image.
WEDGE = Outline(rings=(((-6.0, -4.0), (6.0, -4.0), (6.0, 1.0), (-2.0, 4.0), (-6.0, 4.0)),))


@pytest.fixture
def faced(job: Faced, store: ArtStore, tmp_path: Path) -> Faced:
    """Two artworks on a clear wedge, read from the face and through it."""
    other = store.add_artwork(small_art(tmp_path / "other.png", 50, 44))
    made = with_recipe(job, recipe("clear, read from both sides"))
    made = behind(made, artworks=(other,), placing=job.placing.replace(offset_x=0.7, rotation=10.0))
    return made.replace(
        piece=made.piece.replace(shape=WEDGE, surface=Surface(material=Material.CLEAR)),
        see_through=Holes(
            spacing=1.1, size=0.6, angle=20.0,
            solid=Region(rings=(((0.5, -1.0), (3.0, -1.0), (3.0, 2.0)),)),
        ),
        jig=job.jig.replace(turned=90, columns=2, rows=2),
    )  # fmt: skip


def test_both_tell_of_the_same_print(faced: Faced, store: ArtStore) -> None:
    """Whoever the job is told by, the very same dots are printed; told twice, it is the job."""
    other = faced.other
    assert other.reader is Reader.FACE
    assert other.other == faced
    one, two = job_bed(faced, store), job_bed(other, store)
    assert one.channels == two.channels
    assert [c.name for c in channels(faced)].count("Cyan 2") == 1
    height = one.size[1]
    first, second = one.rows(0, height), two.rows(0, height)
    assert first is not None
    assert second is not None
    assert first.any()
    # Holes are worked out in floats of either view, and round alike but for a level.
    assert np.abs(first.astype(int) - second).max() <= 1


def test_each_reader_sees_its_own_artwork_the_right_way_round(
    faced: Faced, store: ArtStore
) -> None:
    """Colour of each reader is what a job for this reader alone prints."""
    plain = faced.replace(see_through=None)
    for view in (plain, plain.other):
        alone = with_one_reader(view)
        colour = next(la for la in own_layers(view) if la.kind is LayerKind.COLOUR)
        both, single = glimpse(view, store, GRID), glimpse(alone, store, GRID)
        for plate, expected in zip(
            both.plates_of(colour.name), single.plates_of(colour.name), strict=True
        ):
            assert (plate == expected).all()
        # And it sees so: behind blackout, what the other one reads does not matter.
        dark = {"surface": Surface(material=Material.CLEAR)}
        with_other = seen_as(both, View(**dark)).by(0.0)  # type: ignore[arg-type]
        other_gone = with_only_blackout(view)
        without = seen_as(glimpse(other_gone, store, GRID), View(**dark)).by(0.0)  # type: ignore[arg-type]
        black = both.of_kind(LayerKind.BLACKOUT)
        assert black is not None
        solid = black == 255
        assert solid.sum() > 500
        assert np.abs(with_other[solid].astype(int) - without[solid]).max() <= 6


def with_only_blackout(job: Faced) -> Faced:
    """The job without what prints for the other reader alone."""
    return job.replace(stack=tuple(la.replace(on=la.on and job.is_own(la)) for la in job.stack))


def test_blackout_and_white_keep_back(faced: Faced, store: ArtStore) -> None:
    """Blackout lies where both artworks are, drawn back; holes are wider in what has no colour."""
    plain = faced.replace(see_through=None)
    separation = piece_separation(plain, store, GRID, as_read=True)
    height = separation.size[1]
    assert separation.opposite is not None
    shapes = np.minimum(separation.shape(0, height), separation.opposite.shape(0, height)[:, ::-1])
    black = next(la for la in plain.stack if la.kind is LayerKind.BLACKOUT)
    plate = glimpse(plain, store, GRID).plates_of(black.name)[0]
    assert (plate == choke(shapes, black.choke, GRID)).all()

    holed = piece_separation(faced, store, GRID, as_read=True)
    names = (la.name for la in holed.layers if la.kind is not LayerKind.COLOUR)
    for name, holes in zip(names, _single(holed), strict=True):
        whole = glimpse(plain, store, GRID).plates_of(name)[0]
        assert holes.sum(dtype=int) < whole.sum(dtype=int), name
    # Solid regions stay.
    x, y = 2.6, 0.0
    row, column = glimpse(plain, store, GRID).pixel_at(x, y) or (0, 0)
    colour = glimpse(faced, store, GRID).plates_of("Colour through")
    assert [int(p[row, column]) for p in colour] == [
        int(p[row, column]) for p in glimpse(plain, store, GRID).plates_of("Colour through")
    ]


def _single(separation):  # type: ignore[no-untyped-def]
    plates = separation.plates(0, separation.size[1])
    at = 0
    for layer in separation.layers:
        if layer.kind is LayerKind.COLOUR:
            at += 4
        else:
            yield plates[at]
            at += 1


@pytest.mark.parametrize("shape", some(HoleShape, HoleShape.ROUND))
@pytest.mark.parametrize("staggered", some([False, True], True))
def test_open_share_is_what_is_printed(
    job: Faced, store: ArtStore, shape: HoleShape, staggered: bool
) -> None:
    """The closed form against the pixels of a plate with holes, a part of it solid."""
    solid = Region(rings=(((0.0, -30.0), (30.0, -30.0), (30.0, 30.0), (0.0, 30.0)),))
    holes = Holes(spacing=0.9, size=0.5, shape=shape, staggered=staggered, angle=15, solid=solid)
    white = WHITE_UNDER.replace(source=WholePiece(), treatments=())
    wide = job.replace(piece=job.piece.replace(shape=Circle(diameter=40)), stack=(white,))
    fine = Grid(1600, 1600)
    whole, holed = (
        float(glimpse(of, store, fine).plates[0].sum(dtype=np.int64))
        for of in (wide, wide.replace(see_through=holes))
    )
    expected = open_share(wide.replace(see_through=holes))
    assert 1.0 - holed / whole == pytest.approx(expected, rel=0.01)
    assert open_share(job) == 0.0


def test_checks_know_of_both(faced: Faced, store: ArtStore) -> None:
    def codes(job: Faced) -> set[str]:
        return {check.code for check in run_checks(Facts(job, store))}

    usual = codes(faced)
    assert "white-hides-colour" not in usual
    assert "shows-through" not in usual
    assert "open-share" in usual
    no_black = faced.replace(
        stack=tuple(la for la in faced.stack if la.kind is not LayerKind.BLACKOUT)
    )
    findings = {c.code: c for c in run_checks(Facts(no_black, store))}
    fixed = findings["shows-through"].fix
    assert fixed is not None
    assert "shows-through" not in codes(fixed.mend(no_black))
    swapped = faced.replace(stack=faced.stack[::-1])
    wrong = [c for c in run_checks(Facts(swapped, store)) if c.code == "white-hides-colour"]
    assert wrong
    assert wrong[0].fix is not None
    assert "white-hides-colour" not in codes(wrong[0].fix.mend(swapped))
    board = faced.replace(piece=faced.piece.replace(surface=Surface()))
    assert "not-clear" in codes(board)
    assert "holes-touch" in codes(faced.replace(see_through=Holes(spacing=1.0, size=0.9)))


def test_two_readers_are_stated_and_kept(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    """From one reader to two and back; saved, with the second artwork's file."""
    for reader in (Reader.FACE, Reader.THROUGH):
        first = job.replace(reader=reader)
        two = with_two_readers(first)
        assert with_one_reader(two) == first
        readers = [la.reader for la in two.stack if la.kind is LayerKind.COLOUR]
        assert sorted(readers) == [Reader.FACE, Reader.THROUGH]
    other = store.add_artwork(small_art(tmp_path / "second.png", 30, 30))
    two = behind(two, artworks=(other,), placing=Placing(), texts=())
    save_job(two.job, store, tmp_path / "two.farbe")
    elsewhere = ArtStore(tmp_path / "elsewhere")
    assert open_job(tmp_path / "two.farbe", elsewhere) == two.job
    assert elsewhere.artwork(other).width == 30
    with pytest.raises(BadInput, match="one reader"):
        two.replace(reader=Reader.TRANSFER)
    with pytest.raises(BadInput, match="needs one"):
        two.job.replace(faces=two.job.faces[:1], comes_up=None)
