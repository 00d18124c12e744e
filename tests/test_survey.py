"""The survey: every matter with an artwork of its own, at two resolutions; and its oracles."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFilter

from conftest import some
from farbe.checks.accept import accepted
from farbe.checks.check import Check, Facts
from farbe.checks.rules import run_checks
from farbe.checks.stops import Stopped, refuse_stopped
from farbe.checks.weight import Weight
from farbe.estimate.estimate import estimate
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.guide import guide_shape
from farbe.layout.pockets import piece_on_bed
from farbe.layout.register import register_of
from farbe.model.base import BadInput
from farbe.model.jig import Cutting, GuideStyle
from farbe.model.layer import BLACKOUT, COLOUR, VARNISH_OVER, WHITE_UNDER, Layer
from farbe.model.piece import Material, Reader, Rectangle, Surface
from farbe.model.placing import Fit, Placing
from farbe.model.printer import Ink, LayerKind, Register
from farbe.model.source import ColourInk, WholePiece
from farbe.model.text import Table, TextBox, TextFit
from farbe.model.treatment import Choke, Ease, Limit, Shift, Spread
from farbe.queue.store import Queue
from farbe.queue.work import add_job, prepare
from farbe.render.raster import Cancelled
from farbe.survey import look, prints
from farbe.survey.look import survey_of
from farbe.survey.prints import surveys
from farbe.survey.shakejob import job_shake
from farbe.survey.subject import subject
from farbe.survey.survey import Matter

#: Size of the piece in mm, and pixels of the artwork along one.
WIDE, HIGH, FINE = 24.0, 16.0, 40
Draw = Callable[[ImageDraw.ImageDraw], None]
BROWN, WHITE, DARK = "#8a4a20", "#ffffff", "#1d3b31"


def mm(*values: float) -> list[float]:
    return [value * FINE for value in values]


def art(store: ArtStore, folder: Path, draw: Draw, name: str = "a.png", blur: float = 0.0):  # type: ignore[no-untyped-def]
    """An artwork as large as the piece, drawn in mm × FINE from its far left corner."""
    picture = Image.new("RGBA", (round(WIDE * FINE), round(HIGH * FINE)), (0, 0, 0, 0))
    draw(ImageDraw.Draw(picture))
    if blur:
        picture.putalpha(picture.getchannel("A").filter(ImageFilter.GaussianBlur(blur * FINE)))
    path = folder / name
    picture.save(path, dpi=(FINE * 25.4, FINE * 25.4))
    return store.add_artwork(path)


@pytest.fixture(params=[(400, 400), (360, 720)], ids=["square", "oblong"])
def make(
    request: pytest.FixtureRequest, job: Faced, store: ArtStore, tmp_path: Path
) -> Callable[..., Faced]:
    """Makes a job of one dark piece with a drawing, at two resolutions."""
    x, y = request.param

    def made(draw: Draw, *, blur: float = 0.0, **fields: object) -> Faced:
        plain = {
            "piece": job.piece.replace(shape=Rectangle(width=WIDE, height=HIGH)),
            "printer": job.printer.replace(dpi_x=x, dpi_y=y, bed_width=200, bed_height=100),
            "jig": job.jig.replace(columns=2, rows=1, board=job.jig.board.replace(
                width=190, height=90), first_x=10, first_y=10, gap_x=6, play=0.05),
            "artworks": (art(store, tmp_path, draw, blur=blur),),
            "stack": (WHITE_UNDER, COLOUR),
        }  # fmt: skip
        return job.replace(**(plain | fields))

    return made


def block(draw: ImageDraw.ImageDraw) -> None:
    draw.rectangle(mm(4, 4, 20, 12), fill=BROWN)


def found(job: Faced, store: ArtStore) -> dict[str, Check]:
    return {check.code: check for check in run_checks(Facts(job, store))}


def mended(job: Faced, store: ArtStore, code: str, *, words: str = "") -> Faced:
    """The job after the fix, in which the finding is gone."""
    check = found(job, store)[code]
    assert check.fix is not None and words in check.fix.words, check
    made = check.fix.mend(job)
    assert code not in found(made, store)
    return made


def white(*treatments: object, **fields: object) -> Layer:
    return WHITE_UNDER.replace(treatments=treatments, **fields)


def hairlines(draw: ImageDraw.ImageDraw) -> None:
    """White lines of 0.18 mm and one brown block."""
    block(draw)
    for row in range(6):
        draw.rectangle(mm(2, 1 + row * 0.5, 22, 1.18 + row * 0.5), fill=WHITE)


def brown_lines(draw: ImageDraw.ImageDraw) -> None:
    for row in range(20):
        draw.rectangle(mm(2, 1 + row * 0.6, 22, 1.15 + row * 0.6), fill=BROWN)


def near(check: Check, left: float, bottom: float, right: float, top: float) -> None:
    """The first place of a finding lies within a box in mm around the piece's middle."""
    place = check.places[0]
    assert left - 0.2 <= place.left and place.left + place.width <= right + 0.2, place
    assert bottom - 0.2 <= place.bottom and place.bottom + place.height <= top + 0.2, place


def test_white_lettering_that_the_choke_takes_stops(
    make: Callable[..., Faced], store: ArtStore
) -> None:
    bare = make(hairlines, stack=(white(Choke(by=0.12)), COLOUR))
    check = found(bare, store)["white-not-printed"]
    assert check.weight is Weight.STOP and check.figure == pytest.approx(6 * 20 * 0.2, rel=0.08)
    assert "choke takes" in check.text
    near(check, -10, HIGH / 2 - 4, 10, HIGH / 2)
    kept = mended(bare, store, "white-not-printed", words="Keep strokes")
    assert "ink-looks-out" not in found(kept, store)
    assert "white-not-printed" not in found(make(hairlines), store)
    # No white at all is another cause, and so is white that is held back to a tenth.
    added = mended(make(hairlines, stack=(COLOUR,)), store, "white-not-printed", words="Add white")
    assert added.stack[0].kind is LayerKind.WHITE
    weak = make(hairlines, stack=(white(Choke(by=0.1, least=0.1), Limit(percent=10)), COLOUR))
    mended(weak, store, "white-not-printed", words="limit off")
    under = make(hairlines, stack=(white(Choke(by=0.05, least=0.1), source=ColourInk()), COLOUR))
    mended(under, store, "white-not-printed", words="under all artwork")


@pytest.mark.parametrize(
    ("surface", "weight"),
    [
        (Surface(colour="#ffffff"), None),
        (Surface(colour="#c8a878", name="wood"), Weight.STOP),
        (Surface(colour="#f1ece2", name="pale wood"), Weight.CAUTION),
        (Surface(material=Material.TRANSLUCENT, colour="#f4f2ee", name="opal"), Weight.STOP),
        (Surface(material=Material.CLEAR, colour="#ffffff"), Weight.STOP),
    ],
)
def test_white_is_judged_by_looks(
    make: Callable[..., Faced], store: ArtStore, surface: Surface, weight: Weight | None
) -> None:
    made = make(hairlines, stack=(COLOUR,))
    on = made.replace(piece=made.piece.replace(surface=surface))
    check = found(on, store).get("white-not-printed")
    assert (check.weight if check else None) is weight
    if weight is Weight.CAUTION and check is not None:
        meant = accepted(on, check)
        assert found(meant, store)["white-not-printed"].accepted
        refuse_stopped(meant.job, store)


@pytest.mark.long
def test_colour_without_white_and_behind_ink(make: Callable[..., Faced], store: ArtStore) -> None:
    def two(draw: ImageDraw.ImageDraw) -> None:
        block(draw)
        draw.rectangle(mm(4, 13.5, 20, 13.68), fill="#d03020")

    lines = make(two, stack=(white(Choke(by=0.15)), COLOUR))
    check = found(lines, store)["colour-bare"]
    assert check.weight is Weight.CAUTION and check.figure == pytest.approx(16 * 0.2, rel=0.12)
    near(check, -8, -6, 8, -5)
    mended(lines, store, "colour-bare", words="Keep strokes")
    assert "colour-bare" not in found(
        make(block, stack=(white(Choke(by=0.2), Ease()), COLOUR)), store
    )
    ink = Ink(name="Gold", kind=LayerKind.NAMED, shown="#c0a030")
    gold = Layer(kind=LayerKind.NAMED, name="Gold", ink="Gold")
    plain = make(block)
    over = plain.replace(
        printer=plain.printer.replace(inks=(*plain.printer.inks, ink)),
        stack=(*plain.stack, gold),
    )
    assert found(over, store)["colour-hidden"].weight is Weight.STOP
    mended(over, store, "colour-hidden", words="Gold off")
    wrong = make(block, stack=(VARNISH_OVER, WHITE_UNDER, COLOUR))
    assert mended(wrong, store, "varnish-under").stack[-1].kind is LayerKind.VARNISH


@pytest.mark.long
@pytest.mark.parametrize(
    ("layer", "words"),
    [
        (white(Shift(x=0.4)), "shift off"),
        (white(Choke(by=0.1), Spread(by=0.4)), "spread off"),
        (white(source=ColourInk()), "Choke"),
        (white(Choke(by=0.02)), "Choke"),
    ],
)
def test_ink_that_looks_out(
    make: Callable[..., Faced], store: ArtStore, layer: Layer, words: str
) -> None:
    off = Register(x=0.3, y=0.3, rotation=0, scale=0)
    made = make(block, stack=(layer, COLOUR))
    made = made.replace(printer=made.printer.replace(misregister=off))
    check = found(made, store)["ink-looks-out"]
    assert check.about == "White" and check.weight is Weight.CAUTION and check.places
    assert "stated misregister of 0.42 mm" in check.text
    mended(made, store, "ink-looks-out", words=words)
    # Strokes that are spared have little to hide behind; that is no fault of the choke.
    fine = make(hairlines).replace(artworks=make(brown_lines).artworks)
    fine = fine.replace(printer=fine.printer.replace(misregister=Register(x=0.2, y=0.0)))
    noted = found(fine, store)["ink-looks-out"]
    assert noted.weight is Weight.NOTE and noted.fix is None and "spares" in noted.text
    # White lettering beside it may lie anywhere: nothing is under it.
    lettering = make(lambda d: d.rectangle(mm(4, 4, 20, 12), fill=WHITE), stack=(layer, COLOUR))
    assert "ink-looks-out" not in found(lettering, store)


@pytest.mark.long
def test_limits_of_ink(make: Callable[..., Faced], store: ArtStore) -> None:
    thick = make(block, stack=(WHITE_UNDER.replace(hits=20), COLOUR))
    check = found(thick, store)["film-too-thick"]
    # Twenty hits of 14 ml/m², and some colour.
    assert check.weight is Weight.STOP and 280 <= (check.figure or 0) < 310
    assert mended(thick, store, "film-too-thick").stack[0].hits < 9
    limited = make(lambda d: d.rectangle(mm(4, 4, 20, 12), fill="#100800"))
    low = limited.replace(conversion=limited.conversion.replace(total=150))
    assert "ink-over-total" not in found(low, store)
    two = (WHITE_UNDER, COLOUR, BLACKOUT.replace(source=WholePiece()))
    assert "white-hides-colour" in found(make(block, stack=two), store)


def test_strokes_and_gaps_under_what_prints(make: Callable[..., Faced], store: ArtStore) -> None:
    def fine(draw: ImageDraw.ImageDraw) -> None:
        block(draw)
        draw.rectangle(mm(2, 1, 22, 1.1), fill=BROWN)  # a hairline
        draw.rectangle(mm(4, 7.0, 20, 7.1), fill=(0, 0, 0, 0))  # a gap
        draw.line(mm(2, 13, 22, 15), fill=BROWN, width=round(0.1 * FINE))

    made = make(fine)
    inks = tuple(ink.replace(stroke=0.2, gap=0.2) for ink in made.printer.inks)
    coarse = made.replace(printer=made.printer.replace(inks=inks))
    checks = found(coarse, store)
    near(checks["gaps-fine"], -8, 0.8, 8, 1.2)
    strokes = [c for c in run_checks(Facts(coarse, store)) if c.code == "strokes-fine"]
    colour = next(c for c in strokes if c.about == "Colour")
    # It is measured to three quarters of a pixel at its thinnest.
    told = float(colour.text.split(" down to ")[1].split(" mm")[0])
    assert told == pytest.approx(0.1, abs=0.75 / coarse.printer.dpi_x * 25.4)
    assert colour.figure == pytest.approx(20 * 0.1 + 20.1 * 0.1, rel=0.25)
    exact = tuple(ink.replace(stroke=0.05, gap=0.05) for ink in made.printer.inks)
    good = found(made.replace(printer=made.printer.replace(inks=exact)), store)
    assert not {"strokes-fine", "gaps-fine"} & set(good)


def test_edges_of_the_piece(make: Callable[..., Faced], store: ArtStore, tmp_path: Path) -> None:
    def whole(draw: ImageDraw.ImageDraw) -> None:
        draw.rectangle(mm(0, 0, WIDE, HIGH), fill=BROWN)

    short = make(whole, bleed=1.5)
    check = found(short, store)["short-of-bleed"]
    assert check.figure == pytest.approx(2 * (WIDE + HIGH), rel=0.05)
    mended(short, store, "short-of-bleed", words="bleed")
    assert "short-of-bleed" not in found(make(whole), store)
    margin = make(lambda d: d.rectangle(mm(0.1, 0.1, WIDE - 0.1, HIGH - 0.1), fill=BROWN))
    far_off = margin.replace(jig=margin.jig.replace(play=0.3))
    assert "short-of-edge" in found(far_off, store)
    inside = make(block)
    assert "short-of-edge" not in found(inside, store)
    moved = inside.replace(placing=Placing(offset_x=8.0))
    check = found(moved, store)["cut-off"]
    assert check.figure == pytest.approx(4.0 * 8.0, rel=0.1) and "4 mm" in check.text
    mended(moved, store, "cut-off", words="Fit")
    filled = make(whole, placing=Placing(fit=Fit.FILL, scale=130))
    assert "cut-off" not in found(filled, store)
    gone = inside.replace(placing=Placing(offset_x=60.0, scale=50.0, rotation=90.0))
    back = mended(gone, store, "artwork-off-piece").placing
    assert (back.scale, back.rotation, back.offset_x) == (50.0, 90.0, 0.0)
    assert "50 %" in found(gone, store)["artwork-resized"].text


@pytest.mark.long
def test_soft_edges_of_a_transfer_and_colour_like_the_surface(
    make: Callable[..., Faced], store: ArtStore
) -> None:
    glow = make(block, blur=1.0, reader=Reader.TRANSFER, stack=(COLOUR, WHITE_UNDER))
    mended(glow, store, "soft-edges", words="Harden")
    assert "soft-edges" not in found(make(block, blur=1.0), store)
    alike = make(lambda d: d.rectangle(mm(4, 4, 20, 12), fill="#1f3d33"))
    check = found(alike, store)["like-surface"]
    assert check.weight is Weight.CAUTION and check.figure == pytest.approx(16 * 8, rel=0.02)
    assert "like-surface" not in found(make(block), store)


@pytest.mark.long
def test_type_and_what_lies_around(make: Callable[..., Faced], store: ArtStore) -> None:
    name = TextBox(text="{name}", width=12, height=4, size=3, colour=WHITE)
    table = Table(file_name="n.csv", columns=("name",), rows=(("Ida",), ("Maximiliane Honig",)))
    made = make(block, texts=(name,), table=table)
    check = found(made, store)["text-small"]
    assert check.count == 1 and "Maximiliane" in check.text and check.places[0].pocket == 2
    off = made.replace(texts=(name.replace(x=10.5, fit=TextFit.KEEP),))
    assert found(off, store)["text-outside"].weight is Weight.STOP
    tails = made.replace(texts=(name.replace(text="Öpjg", height=3.0),))
    mended(tails, store, "text-tall", words="Higher")
    # White type on bare dark surface, and no white ink.
    bare = make(block, texts=(name.replace(text="Ida", y=-6),), stack=(COLOUR,))
    near(found(bare, store)["white-not-printed"], -6, -8, 6, -4)
    plain = make(block)
    kerb = plain.replace(
        guide=plain.guide.replace(style=GuideStyle.KERB, kerb_width=7.0),
        marks=plain.marks.replace(trim=True, length=9.0), cutting=Cutting(notch=18.0),
    )  # fmt: skip
    checks = found(kerb, store)
    assert {"kerb-on-neighbour", "marks-on-neighbour"} <= set(checks)
    close = plain.replace(jig=plain.jig.replace(gap_x=1.5), cutting=Cutting(notch=60.0))
    assert {"number-on-neighbour", "no-finger-notch"} <= set(found(close, store))
    tight = plain.replace(jig=plain.jig.replace(gap_x=0.2, gap_y=0.2), cutting=Cutting())
    assert "cut-lines-cross" in found(tight, store)


def test_one_thing_is_one_finding(make: Callable[..., Faced], store: ArtStore) -> None:
    """Two dozen names with the same fault are one line, with a count and places."""
    made = make(hairlines, stack=(white(Choke(by=0.12)), COLOUR))
    rows = tuple((f"Name {i}",) for i in range(24))
    many = made.replace(
        piece=made.piece.replace(shape=Rectangle(width=WIDE, height=HIGH)),
        printer=made.printer.replace(dpi_x=200, dpi_y=200, bed_width=400, bed_height=300),
        jig=made.jig.replace(columns=6, rows=4, board=made.jig.board.replace(
            width=390, height=290)),
        texts=(TextBox(text="{name}", y=-6, width=20, height=3, size=2.5),),
        table=Table(file_name="n.csv", columns=("name",), rows=rows),
    )  # fmt: skip
    checks = [c for c in run_checks(Facts(many, store)) if c.code == "white-not-printed"]
    assert len(checks) == 1 and checks[0].count == 24 and "24 prints" in checks[0].text


def test_kept_by_content(
    make: Callable[..., Faced], store: ArtStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    looked = []
    real = prints._look_at
    monkeypatch.setattr(prints, "_look_at", lambda key, *a: looked.append(key) or real(key, *a))
    rows = (("Ada",), ("Bo",))
    name = TextBox(text="{name}", y=-6, width=20, height=3, size=2.5)
    made = make(block, texts=(name,), table=Table(file_name="n.csv", columns=("name",), rows=rows))
    assert not prints.are_known(made)
    surveys(made, store)
    assert len(looked) == 2 and prints.are_known(made.replace(name="Other"))
    surveys(made.replace(prices=made.prices.replace(piece=3.0), name="Other"), store)
    surveys(made.replace(jig=made.jig.replace(first_x=12)), store)
    alike = next(check for check in run_checks(Facts(made, store)) if check.weight is not None)
    surveys(accepted(made, replace(alike, weight=Weight.CAUTION)), store)
    assert len(looked) == 2
    table = Table(file_name="n.csv", columns=("name",), rows=(("Ada",), ("Cleo",)))
    surveys(made.replace(table=table), store)
    assert len(looked) == 3
    with pytest.raises(Cancelled):
        surveys(made.replace(stack=(COLOUR,)), store, cancelling)


def cancelling(_: float) -> None:
    raise Cancelled


@pytest.mark.parametrize("rows", some([16, 50, 1000], 16))
def test_strips_agree_and_brute_force_does(
    make: Callable[..., Faced], store: ArtStore, monkeypatch: pytest.MonkeyPatch, rows: int
) -> None:
    made = make(hairlines, stack=(white(Choke(by=0.12), Shift(x=0.2)), COLOUR, VARNISH_OVER))
    ink = {"stroke": 0.25, "gap": 0.25}
    printer = made.printer.replace(inks=tuple(i.replace(**ink) for i in made.printer.inks))
    made = made.replace(printer=printer)
    key = prints._key(made, surveys(made, store)[0].what, {}, exact=True)
    of = subject(key.print_.job, store, key.grid, exact=True, register=key.register)
    whole = survey_of(of)
    monkeypatch.setattr(look, "FEWEST", 1)
    monkeypatch.setattr(look, "MOST", rows)
    again = survey_of(of)
    assert again == whole
    # Bare white, pixel by pixel: no ink within the allowance of where the artwork is white.
    height = of.separation.size[1]
    plates = of.separation.plates(0, height)
    assert whole.sums == tuple(int(plate.sum(dtype="int64")) for plate in plates)
    colours = of.separation.placed.colours(0, height)
    lost = (of.separation.shape(0, height) >= 128) & (colours.min(axis=2) >= 250)
    inked = np.argwhere(plates[0] >= 128) / (of.grid.per_mm_y, of.grid.per_mm_x)
    places = np.argwhere(lost) / (of.grid.per_mm_y, of.grid.per_mm_x)
    far = np.array([np.hypot(*(inked - place).T).min() for place in places[::7]])
    bare = (far > of.allowance + 0.5 / of.grid.per_mm_x).mean()
    marks = whole.of(Matter.WHITE_BARE) + whole.of(Matter.WHITE_CHOKED)
    pixel = 1.0 / (of.grid.per_mm_x * of.grid.per_mm_y)
    assert sum(mark.area for mark in marks) == pytest.approx(bare * lost.sum() * pixel, rel=0.05)


def test_stops_stop_everywhere(make: Callable[..., Faced], store: ArtStore, tmp_path: Path) -> None:
    made = make(hairlines, stack=(white(Choke(by=0.12)), COLOUR))
    queue = Queue(tmp_path / "queue")
    with pytest.raises(Stopped, match="white"):
        add_job(queue, made.job, store)
    assert not queue.entries(("waiting", "held"))  # type: ignore[arg-type]
    good = make(hairlines)
    number = add_job(queue, good.job, store)
    # What an earlier Farbe let in is refused when its files are to be written.
    from farbe.files.jobfile import save_job

    save_job(made.job, store, queue.job_path(queue.entry(number).token))
    with pytest.raises(BadInput, match="is stopped"):
        prepare(queue, number, store)


def test_the_estimate_counts_the_kerb(make: Callable[..., Faced], store: ArtStore) -> None:
    plain = make(block)
    kerb = plain.replace(guide=plain.guide.replace(style=GuideStyle.KERB, kerb_hits=8))
    more = sum(u.ml for u in estimate(kerb, store).inks if u.ink == "Varnish")
    # Two of them, eight hits of 12 ml/m²; figures and code are printed in varnish as well.
    area = guide_shape(kerb.guide, piece_on_bed(kerb)).area
    assert 2 * area * 8 * 12.0 / 1e6 < more < 2.7 * area * 8 * 12.0 / 1e6


# shake


def shake_of(job: Faced, store: ArtStore, *, by: float, **register: float) -> float:
    """Share of prints on which white shows, by the job's shake."""
    off = Register(**{"x": 0.0, "y": 0.0, "rotation": 0.0, "scale": 0.0} | register)
    made = job.replace(
        stack=(white(Choke(by=by)), COLOUR), printer=job.printer.replace(misregister=off)
    )
    shake = job_shake(made, store, 0.05).white
    assert shake is not None
    return shake.chance


def monte_carlo(outline: np.ndarray, normals: np.ndarray, by: float, **register: float) -> float:
    """The same by brute force, place by place along an outline."""
    rng = np.random.default_rng(99)
    of = {"x": 0.0, "y": 0.0, "rotation": 0.0, "scale": 0.0} | register
    sigma = np.array([of["x"], of["y"], np.radians(of["rotation"]), of["scale"] / 100]) / 1.96
    x, y, turn, scale = (rng.standard_normal((20_000, 4)) * sigma).T[:, :, None]
    move_x = x - turn * outline[:, 1] + scale * outline[:, 0]
    move_y = y + turn * outline[:, 0] + scale * outline[:, 1]
    return float(((move_x * normals[:, 0] + move_y * normals[:, 1]).max(axis=1) > by).mean())


@pytest.mark.long
def test_shake_by_every_place_and_true_normals(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    shape = Rectangle(width=44, height=34)
    base = job.replace(
        piece=job.piece.replace(shape=shape),
        printer=job.printer.replace(dpi_x=300, dpi_y=300, bed_width=400, bed_height=300),
        jig=job.jig.replace(columns=1, rows=1),
    )

    def picture(name: str, draw: Draw) -> Faced:
        image = Image.new("RGBA", (440, 340), (0, 0, 0, 0))
        draw(ImageDraw.Draw(image))
        image.save(tmp_path / name, dpi=(254, 254))
        return base.replace(artworks=(store.add_artwork(tmp_path / name),))

    box = picture("box.png", lambda d: d.rectangle((20, 20, 419, 319), fill=BROWN))
    # Half of the longer side, turned: P(|z| > 0.05 / (20 tan 0.3° / 1.96)).
    assert shake_of(box, store, by=0.05, rotation=0.3) == pytest.approx(0.35, abs=0.02)
    disc = picture("disc.png", lambda d: d.ellipse((70, 20, 369, 319), fill=BROWN))
    angle = np.linspace(0, 2 * np.pi, 720, endpoint=False)
    round_ = np.column_stack([np.cos(angle), np.sin(angle)])
    for register in ({"x": 0.1, "y": 0.1}, {"scale": 0.5}, {"x": 0.1, "rotation": 0.5}):
        wanted = monte_carlo(15 * round_, round_, 0.06, **register)
        assert shake_of(disc, store, by=0.06, **register) == pytest.approx(wanted, abs=0.03)
    # Runs of their own turn about the datum: what is asked for grows with the distance.
    off = Register(x=0.02, y=0.02, rotation=0.02, scale=0.02)
    far = box.replace(
        printer=box.printer.replace(misregister=off),
        jig=box.jig.replace(first_x=300, first_y=200),
    )
    apart = far.replace(running=far.running.replace(separate=True))
    near_, away = (job_shake(one, store, 0.05).white for one in (far, apart))
    assert near_ is not None and away is not None and away.least > 2 * near_.least
    assert register_of(apart, apart=True) > register_of(apart, apart=False)


@pytest.mark.parametrize("block", [40, 97])
def test_thin_strokes_do_not_depend_on_the_parts_they_are_looked_for_in(
    monkeypatch: pytest.MonkeyPatch, block: int
) -> None:
    """All of a plate at once, and parts of it that nothing divides evenly."""
    from farbe.separate import spare
    from farbe.separate.grid import Grid
    from farbe.survey import strokes

    grid, rng = Grid(600, 900), np.random.default_rng(3)
    plate = np.zeros((300, 350), np.uint8)
    for _ in range(40):
        x, y, far = *rng.integers(0, 300, 2).tolist(), int(rng.integers(10, 90))
        plate[y : y + int(rng.integers(1, 7)), x : x + far] = 255
        plate[x : x + far, y : y + int(rng.integers(1, 5))] = 255

    def found(of: int) -> np.ndarray:
        monkeypatch.setattr(spare, "BLOCK", of)
        mask = np.zeros(plate.shape, bool)
        for thin in strokes.thin_strokes(plate, 0.2, grid, around=30):
            high, wide = thin.mask.shape
            part = mask[thin.top : thin.top + high, thin.left : thin.left + wide]
            assert not (part & thin.mask).any()
            part |= thin.mask
        return mask

    whole = found(1000)
    assert whole.any() and not whole[:30].any() and not whole[-30:].any()
    assert np.array_equal(found(block), whole)
