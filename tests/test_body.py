"""Round bodies: the print's plane against the geometry of cylinders and cones."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from conftest import Sample
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.edits.body import with_body
from farbe.estimate.runs import runs
from farbe.estimate.steps import steps
from farbe.files.store import ArtStore
from farbe.layout.body import (
    artwork_of_print,
    artwork_room,
    print_of_artwork,
    print_of_surface,
    print_outline,
    surface_of_print,
)
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.fill import filled
from farbe.layout.laid import laid
from farbe.layout.rollers import bodies_on_bed
from farbe.model.base import BadInput
from farbe.model.jig import Corner
from farbe.model.piece import RoundBody, Unrolled
from farbe.model.placing import Fit, Placing
from farbe.render.glimpse import glimpse
from farbe.render.piece import piece_separation
from farbe.separate.grid import Grid

BODIES = st.builds(
    RoundBody,
    diameter=st.floats(40, 120), end_diameter=st.one_of(st.none(), st.floats(50, 110)),
    zone=st.floats(60, 180), seam=st.floats(-4, 12), free=st.floats(0, 30),
    unrolled=st.sampled_from(Unrolled), follows=st.booleans(),
)  # fmt: skip


@given(BODIES, st.floats(-1, 1), st.floats(-1, 1))
@settings(max_examples=150)
def test_every_map_has_its_inverse(body: RoundBody, across: float, up: float) -> None:
    angle = np.array(across * min(body.wrap_angle, 6.2) / 2)
    along = np.array((up + 1) / 2 * body.slant)
    place = print_of_surface(body, angle, along)
    again = surface_of_print(body, place)
    assert again[0] == pytest.approx(float(angle), abs=1e-6)
    assert again[1] == pytest.approx(float(along), abs=1e-6)
    back = print_of_artwork(body, artwork_of_print(body, place))
    assert back == pytest.approx(place, abs=1e-6)
    outline = print_outline(body)
    left, bottom, right, top = outline.bounds
    assert (right - left, top - bottom) == pytest.approx((body.width, body.height), rel=2e-4)
    assert (left + right) / 2 == pytest.approx(0, abs=1e-6)


@given(BODIES, st.floats(-0.9, 0.9), st.floats(0.05, 0.95))
@settings(max_examples=100)
def test_a_wrapped_print_is_bent_and_not_stretched(
    body: RoundBody, across: float, up: float
) -> None:
    """Short ways on the film are as long as the ways in space that they come to lie on."""
    wrapped = body.replace(unrolled=Unrolled.WRAPPED)
    angle, along = across * min(wrapped.wrap_angle, 6.2) / 2, up * wrapped.slant

    def in_space(theta: float, s: float) -> np.ndarray:
        near, far = wrapped.diameter / 2, wrapped.far_diameter / 2
        r = near + (far - near) * s / wrapped.slant
        return np.array(
            [r * math.sin(theta), r * math.cos(theta), s * wrapped.zone / wrapped.slant]
        )

    for by in ((1e-5, 0.0), (0.0, 1e-3), (1e-5, 1e-3)):
        there = angle + by[0], along + by[1]
        flat = print_of_surface(wrapped, np.array(there[0]), np.array(there[1])) - print_of_surface(
            wrapped, np.array(angle), np.array(along)
        )
        space = in_space(*there) - in_space(angle, along)
        assert np.linalg.norm(flat) == pytest.approx(np.linalg.norm(space), rel=1e-3)


def test_figures_of_a_cone_by_hand() -> None:
    """A beaker of 60 to 80 mm and 40 mm high: slant, apex, arc."""
    cone = RoundBody(diameter=60, end_diameter=80, zone=40, unrolled=Unrolled.WRAPPED)
    slant = math.hypot(40, 10)
    assert cone.slant == pytest.approx(slant)
    assert cone.slope == pytest.approx(10 / slant)
    assert cone.wrap == pytest.approx(math.pi * 70)
    # The rims are arcs about the apex, and as long as the rims are.
    outer = 40 / cone.slope
    turn = 2 * math.pi * cone.slope
    assert outer * turn == pytest.approx(math.pi * 80)
    assert print_outline(cone).area == pytest.approx(math.pi * (30 + 40) * slant, rel=1e-3)
    straight = RoundBody(diameter=75, zone=90, seam=0.5, free=20)
    assert straight.wrap == pytest.approx(75 * math.pi - 20.5)
    assert (straight.width, straight.height) == pytest.approx((straight.wrap, 90))
    assert artwork_room(straight) == pytest.approx((straight.wrap, 90))
    for wrong, said in (
        ({"seam": 400.0}, "nothing of the circumference"),
        ({"free": 250.0}, "nothing of the circumference"),
        ({"end_diameter": 1200.0, "zone": 3.0}, "tapers too much"),
    ):
        with pytest.raises(BadInput, match=said):
            straight.replace(**wrong)


def test_level_lines_of_the_artwork_lie_level_on_the_cone(
    job: Faced, store: ArtStore, tmp_path
) -> None:  # type: ignore[no-untyped-def]
    """Rings drawn straight come to lie at one height all around, and columns on straight lines."""
    rows, columns = np.mgrid[0:600, 0:1500]
    picture = np.full((600, 1500, 3), 255, np.uint8)
    picture[(rows // 60) % 2 == 0] = (0, 0, 0)
    picture[(columns // 150) % 2 == 0, 1] = 128
    Image.fromarray(picture).save(tmp_path / "rings.png", dpi=(150, 150))
    art = store.add_artwork(tmp_path / "rings.png")
    cone = RoundBody(diameter=50, end_diameter=74, zone=70, seam=4, unrolled=Unrolled.WRAPPED)
    wide, high = artwork_room(cone)
    made = job.replace(
        piece=job.piece.replace(shape=cone), bleed=0.0, placing=Placing(fit=Fit.FIT),
        artworks=(art.replace(width=wide, height=high),), texts=(),
    )  # fmt: skip
    grid = Grid(150, 150)
    separation = piece_separation(made, store, grid, as_read=True)
    height = separation.size[1]
    seen = glimpse(made, store, grid).artwork
    alpha = separation.shape(0, height)
    y, x = np.nonzero(alpha == 255)
    middle = np.array(separation.size) / 2
    places = (np.stack([x + 0.5, y + 0.5], axis=1) - middle) / (grid.per_mm_x, -grid.per_mm_y)
    angle, along = surface_of_print(cone, places)
    # The artwork's rows count from its top, which is the far end.
    share = 1.0 - along / cone.slant
    dark = ((share * 600) // 60) % 2 == 0
    edge = np.abs(((share * 600) % 60) / 60 - 0.5) > 0.38
    found = seen[y, x, 0] < 128
    assert (found == dark)[~edge].all()
    across = angle / (cone.wrap_angle) + 0.5
    tinted = ((across * 1500) // 150) % 2 == 0
    near = np.abs(((across * 1500) % 150) / 150 - 0.5) > 0.44
    pick = ~edge & ~near & ~dark
    assert ((seen[y, x, 1] < 200) == tinted)[pick].all()


def test_on_rollers_a_tapered_body_is_printed_by_angles(job: Faced) -> None:
    """What the machine takes for a millimetre is right at the widest end, too much elsewhere."""
    cone = RoundBody(diameter=50, end_diameter=80, zone=70)
    assert cone.width == pytest.approx(math.pi * 80)
    top = print_of_surface(cone, np.array(0.1), np.array(cone.slant))
    bottom = print_of_surface(cone, np.array(0.1), np.array(0.0))
    assert top[0] == pytest.approx(0.1 * 40) == pytest.approx(bottom[0])
    assert artwork_of_print(cone, bottom)[0] == pytest.approx(0.1 * 32.5)


@pytest.mark.long
def test_bottles_and_beakers_are_run_without_a_guide_and_with_words(sample: Sample) -> None:
    (bottles, store), (beakers, _) = sample("mead-bottles"), sample("tapered-beaker")
    assert [run.name for run in runs(bottles)] == ["artwork"]
    assert steps(bottles)[0].text == "Put them on the rollers"
    assert runs(beakers)[0].what == "guide"
    codes = {c.code: c for c in run_checks(Facts(bottles, store, exact=False))}
    assert "360" in codes["wrap"].text or "359" in codes["wrap"].text
    assert not [c for c in codes.values() if c.weight.value == "stop"]
    wrong = bottles.replace(
        piece=bottles.piece.replace(height=20), jig=bottles.jig.replace(rows=2, turned=0)
    )
    found = {c.code: c for c in run_checks(Facts(wrong, store, exact=False))}
    for code in ("rollers-hold-a-row", "along-the-rollers", "height-of-body"):
        fix = found[code].fix
        assert fix is not None
        assert code not in {c.code for c in run_checks(Facts(fix.mend(wrong), store, exact=False))}


@given(
    st.floats(20, 120), st.floats(0, 60), st.floats(0, 60), st.floats(0, 20),
    st.sampled_from((90, 270)), st.sampled_from(Corner),
)  # fmt: skip
@settings(max_examples=60)
def test_bodies_lie_apart_on_their_rollers(
    sample: Sample, zone: float, base: float, rest: float, gap: float, turned: int, corner: Corner
) -> None:
    """As far apart as the gap says, as many as their whole lengths let, in the middle."""
    body = RoundBody(diameter=60, zone=zone, base=base, length=base + zone + rest)
    job, _ = sample("mead-bottles")
    jig = job.jig.replace(turned=turned, datum=job.jig.datum.replace(corner=corner), gap_x=gap,
                          keep_outs=())  # fmt: skip
    found = filled(jig, body, job.printer, 0.0)
    room = jig.board.width
    most = int((room + gap + 1e-6) // (base + zone + rest + gap))
    assert (found.count if found else 0) == most
    if found is None or not most:
        return
    made = job.replace(jig=found.jig, piece=job.piece.replace(shape=body, height=60))
    lying = bodies_on_bed(made)
    assert [right - left for _, left, right in lying] == pytest.approx([base + zone + rest] * most)
    apart = [after[1] - one[2] for one, after in pairwise(lying)]
    assert apart == pytest.approx([gap] * (most - 1), abs=1e-6)
    on = carrier_of(made).base(made)
    assert lying[0][1] - on.x == pytest.approx(on.x + on.width - lying[-1][2], abs=1e-6)
    # The base is at the near end, which a quarter turn to the left brings to the right.
    number, left, right = lying[0]
    piece = next(p for p in laid(made) if p.number == number)
    to_base = right - (piece.x + zone / 2) if turned == 90 else (piece.x - zone / 2) - left
    assert to_base == pytest.approx(base)


def test_what_is_wrong_with_a_body_is_said_and_mended(sample: Sample) -> None:
    job, store = sample("mead-bottles")
    # Where bodies lie has nothing to do with how fine they are printed.
    job = job.replace(printer=job.printer.replace(dpi_x=150, dpi_y=150))

    def codes(of: Faced) -> set[str]:
        return {check.code for check in run_checks(Facts(of, store))}

    body = job.piece.shape
    assert not codes(job) & {"bodies-meet", "print-off-body", "bodies-beyond-rollers"}
    for fields, jig, code in (
        ({"length": 90.0}, {}, "print-off-body"), ({"length": None}, {}, "length-of-body"),
        ({}, {"gap_x": 0.5}, "bodies-meet"), ({"length": 160.0}, {}, "bodies-beyond-rollers"),
        ({"lift": 20.0}, {}, "height-of-body"),
    ):  # fmt: skip
        shape = body.replace(**fields)
        wrong = job.replace(piece=job.piece.replace(shape=shape), jig=job.jig.replace(**jig))
        found = next(c for c in run_checks(Facts(wrong, store)) if c.code == code)
        if found.fix is not None:
            assert code not in codes(found.fix.mend(wrong))
    raised = with_body(job, lift=18.0)
    assert raised.piece.height == body.widest + 18.0
    assert any(step.height == body.widest + 18.0 for step in steps(raised))
