"""What differs from pocket to pocket: artworks, changes, lettering."""

from __future__ import annotations

import datetime
from importlib.resources import as_file, files
from pathlib import Path

import numpy as np
import pytest
import segno
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw, ImageFont

from conftest import small_art
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.checks.weight import Weight
from farbe.files.store import ArtStore
from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.layout.frame import BedFrame
from farbe.layout.laid import allotted, laid
from farbe.layout.lettering import set_box, set_line, shipped_font, type_size
from farbe.layout.loads import count_loads, loads_of, with_load
from farbe.layout.placing import artwork_box
from farbe.layout.prints import one_print
from farbe.layout.tiling import tiled, tiles_of, whole_again
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.model.marks import Marks
from farbe.model.piece import Rectangle
from farbe.model.placing import PocketChange
from farbe.model.text import Table, TextBox, TextFit, TypeFace
from farbe.render import piece
from farbe.render.bed import job_bed
from farbe.render.marks import job_marks, label_words
from farbe.render.piece import piece_separation
from farbe.render.pieceframe import PieceFrame
from farbe.render.piecetile import job_tile
from farbe.separate.grid import Grid
from farbe.separate.lettering import Lettering
from farbe.separate.outline import rasterise

quantities = st.lists(st.one_of(st.none(), st.integers(0, 9)), min_size=1, max_size=5).filter(
    lambda found: found.count(None) <= 1
)


def art(index: int, quantity: int | None) -> ArtworkFile:
    return ArtworkFile(
        digest=f"{index:064x}", file_name=f"{index}.png", width=10, height=8, quantity=quantity
    )


@given(
    quantities,
    st.dictionaries(st.integers(1, 12), st.integers(0, 4), max_size=5),
    st.sets(st.integers(1, 12), max_size=6),
)
@settings(max_examples=80)
def test_quantities_come_out(
    wanted: list[int | None], chosen: dict[int, int], off: set[int]
) -> None:
    """Printed and missing together are what was asked for; nothing is empty while some wait."""
    arts = tuple(art(i, quantity) for i, quantity in enumerate(wanted))
    changes = tuple(
        PocketChange(pocket=pocket, artwork=arts[which % len(arts)].digest)
        for pocket, which in chosen.items()
    )
    job = TWELVE.replace(artworks=arts, changes=changes, jig=TWELVE.jig.replace(off=frozenset(off)))
    found, used = allotted(job), {pocket.number for pocket in laid(job)}
    printed = [what.artwork for what in found.prints.values()]
    assert set(found.prints) | set(found.empty) == used
    assert not set(found.prints) & set(found.empty)
    missing = {a.digest: count for a, count in found.missing}
    for one in arts:
        given_by_hand = sum(c.artwork == one.digest for c in changes if c.pocket in used)
        if one.quantity is not None:
            asked = max(one.quantity, given_by_hand)
            assert printed.count(one) + missing.get(one.digest, 0) == asked
    assert not (found.empty and (found.missing or None in wanted))
    for change in changes:
        if change.pocket in used:
            what = found.prints[change.pocket].artwork
            assert what is not None and what.digest == change.artwork


@pytest.fixture(autouse=True)
def twelve(job: Faced) -> None:
    """The small job for tests that hypothesis calls many times."""
    global TWELVE
    TWELVE = job


TWELVE: Faced


def test_each_pocket_prints_its_own(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    """Every pocket of the bed is the tile of its own print, wherever it is made."""
    other = store.add_artwork(small_art(tmp_path / "other.png", 48, 48))
    of = job.replace(
        artworks=(job.artworks[0].replace(quantity=5), other),
        changes=(
            PocketChange(pocket=2, rotation=30, scale=80, offset_x=0.6, mirror=True),
            PocketChange(pocket=7, artwork=job.artworks[0].digest),
        ),
        texts=(TextBox(text="No. {#} {name}", width=9, height=3, size=1.6, y=-2),),
        table=Table(
            file_name="names.csv", columns=("name",), rows=tuple((f"N{i}",) for i in range(12))
        ),
    )
    bed = job_bed(of, store)
    whole = bed.rows(0, bed.size[1])
    assert whole is not None
    frame = BedFrame(80, 60, Grid(150, 210))
    seen = []
    for pocket in laid(of):
        what = allotted(of).prints[pocket.number]
        alone = one_print(of, what)
        canvas = PieceFrame.for_print(alone, frame.grid)
        tile = job_tile(alone, store, frame.grid, canvas=canvas)
        column, row = frame.corner(pocket.x, pocket.y, tile.size, canvas.middle)
        wanted = tile.rows(0, tile.size[1])
        there = whole[row : row + tile.size[1], column : column + tile.size[0]]
        # Neighbours do not reach into a tile: the gap is wider than the bleed.
        assert np.array_equal(there, wanted)
        seen.append((what.artwork, what.texts[0].text))
    assert [text for _, text in seen] == [f"No. {i + 1} N{i}" for i in range(12)]
    assert [a == job.artworks[0].replace(quantity=5) for a, _ in seen] == [
        number in (1, 2, 3, 4, 7) for number in range(1, 13)
    ]


def test_prints_stay_the_same_where_pockets_are_moved(job: Faced) -> None:
    """An edit that leaves them is not asked what a thousand pockets print; others are."""
    named = job.replace(
        table=Table(file_name="names.csv", columns=("name",), rows=(("Imme",), ("Jorn",))),
        texts=(TextBox(text="{name} {serial}", width=9, height=3, size=1.6),),
    )
    before = allotted(named)
    moved = named.replace(jig=named.jig.replace(gap_x=named.jig.gap_x + 1.0))
    assert allotted(moved.replace(bleed=1.5)) is before
    assert allotted(moved).different == before.different
    last = max(before.prints)
    for other in (
        named.replace(jig=named.jig.replace(off=frozenset({last}))),
        named.replace(table=named.table.replace(rows=(("Imme",), ("Jorn B.",)))),
        named.replace(texts=(named.texts[0].replace(size=1.4),)),
        named.replace(changes=(PocketChange(pocket=1, rotation=5.0),)),
        named.replace(placing=named.placing.replace(margin=1.0)),
        named.replace(serial=named.serial.replace(start=7)),
    ):
        assert allotted(other).prints != before.prints


@pytest.mark.parametrize("text", ["Heather 250 g", "AVATAR", "fi & Öl"])
def test_type_is_set_as_freetype_sets_it(text: str) -> None:
    """Our outlines, rasterised, against FreeType's rendering with the same font and size."""
    with as_file(files("farbe") / "data" / "fonts" / "Inter-Medium.otf") as path:
        font = ImageFont.truetype(str(path), 110, layout_engine=ImageFont.Layout.RAQM)
    capital = -font.getbbox("H", anchor="ls")[1]
    line = set_line(text, shipped_font(TypeFace.MEDIUM))
    size = (round(line.width * capital) + 60, 220)
    drawn = Image.new("L", size, 0)
    ImageDraw.Draw(drawn).text((20, 150), text, font=font, fill=255, anchor="ls")
    ours = np.zeros(size[::-1], np.uint8)
    for rings in line.glyphs:
        moved = tuple(ring * (capital, -capital) + (20, 150) for ring in rings)
        np.maximum(ours, rasterise(moved, size[0], 0, size[1]), out=ours)
    theirs = np.asarray(drawn)
    assert line.missing == ""
    # FreeType places glyphs by whole pixels; but for that the ink is the same.
    assert int(ours.sum()) == pytest.approx(int(theirs.sum()), rel=0.01)
    assert np.abs(ours.astype(int) - theirs).sum() < 0.05 * theirs.sum()


def test_boxes_align_shrink_and_turn() -> None:
    font = shipped_font(TypeFace.MEDIUM)

    def ends(**fields: object) -> np.ndarray:
        box = TextBox(text="HHH", width=40, height=10, size=5).replace(**fields)
        points = np.concatenate([ring for rings in set_box(box, font) for ring in rings])
        return np.array([points.min(axis=0), points.max(axis=0)])

    plain = ends()
    assert np.ptp(plain[:, 1]) == pytest.approx(5) and plain.mean(axis=0) == pytest.approx(
        (0, 0), abs=0.05
    )
    assert ends(across="left")[0, 0] == pytest.approx(-20, abs=0.6)
    assert ends(across="right", along="top")[1] == pytest.approx((20, 5), abs=0.6)
    assert np.ptp(ends(width=8)[:, 0]) <= 8
    assert np.ptp(ends(width=8, fit=TextFit.KEEP)[:, 0]) == pytest.approx(np.ptp(plain[:, 0]))
    filled = ends(width=60, fit=TextFit.FILL)
    assert np.ptp(filled[:, 0]) == pytest.approx(60, rel=0.08)
    assert np.ptp(filled[:, 1]) == pytest.approx(5)
    turned = ends(rotation=90, x=3, y=-2)
    assert np.ptp(turned, axis=0) == pytest.approx(np.ptp(plain, axis=0)[::-1])
    assert turned.mean(axis=0) == pytest.approx((3, -2), abs=0.05)


def test_white_lies_under_lettering(job: Faced, store: ArtStore) -> None:
    """A text beside the artwork has colour of its own and white under it, choked."""
    text = TextBox(text="H", width=6, height=6, size=6, x=0, y=0, colour="#d02020")
    of = job.replace(artworks=(), texts=(text,))
    separation = piece_separation(of, store, Grid(300, 300))
    white, *inks, varnish = separation.plates(0, separation.size[1])
    colour = np.max(inks, axis=0)
    area = varnish.sum() / 255 / (300 / 25.4) ** 2
    glyph = set_box(text, shipped_font(TypeFace.MEDIUM))[0][0]
    x, y = glyph.T
    exact = abs(np.dot(x, np.roll(y, 1)) - np.dot(y, np.roll(x, 1))) / 2
    assert area == pytest.approx(exact, rel=0.01)
    assert inks[1].max() > 150 and inks[0].max() < 60
    assert 0 < (white > 127).sum() < (colour > 60).sum()
    assert not ((white > 127) & (colour < 60)).any()


#: Spaces of no width and of some, and marks that no line shows.
UNSEEN = " \u00a0\u200b\u200d\u2003\u3000\ufeff\n"


@pytest.mark.long
@settings(max_examples=25)
@given(text=st.text(UNSEEN, max_size=6), seen=st.text("Hg" + UNSEEN, max_size=6))
def test_text_that_shows_nothing_prints_nothing(
    job: Faced, store: ArtStore, text: str, seen: str
) -> None:
    """No letter is missing from it, and it is where all other text is drawn."""
    box = TextBox(text=text, width=9, height=4, size=2)
    bare, blank, shown = (
        job.replace(artworks=(), texts=texts)
        for texts in ((), (box,), (box, box.replace(text=seen, y=3)))
    )
    grid = Grid(150, 210)
    for of in (blank, shown):
        separation = piece_separation(of, store, grid)
        plates = separation.plates(0, separation.size[1])
        printed = any(plate.any() for plate in plates)
        assert printed is (of is shown and not {"H", "g"}.isdisjoint(seen))
        run_checks(Facts(of, store))
    day = datetime.date(2026, 11, 23)
    labelled = job.replace(marks=Marks(label=seen, label_height=2, qr=True), name=f"Tins{text}")
    assert len(label_words(labelled, day).splitlines()) < 2
    drawn = [mark.tile.rows(0, mark.tile.size[1]) for mark in job_marks(labelled, grid, day)]
    assert bool(drawn) is bool(seen.strip())
    assert set_box(box, shipped_font(TypeFace.MEDIUM)) == ()
    assert piece_separation(bare, store, grid).lettering == ()


@pytest.mark.long
@settings(max_examples=40)
@given(data=st.data())
def test_lettering_that_was_drawn_before_is_as_drawn_anew(
    job: Faced, store: ArtStore, monkeypatch: pytest.MonkeyPatch, data: st.DataObject
) -> None:
    """Whatever of the text, its piece or its inks has changed since."""
    box = TextBox(text="Hg", width=8, height=4, size=3)
    grid, kept = Grid(150, 210), Kept[tuple[object, ...], Lettering](9)
    for _ in range(4):
        changed = box.replace(
            **data.draw(st.fixed_dictionaries({}, optional={
                "text": st.sampled_from(["Hg", "gH"]), "x": st.sampled_from([0, 4.5]),
                "rotation": st.sampled_from([0, 30]), "colour": st.sampled_from(["#000000",
                "#d02020"]), "ink": st.sampled_from(["White", "Cyan"]),
                "face": st.sampled_from([TypeFace.MEDIUM, TypeFace.BOLD]),
            }))
        )  # fmt: skip
        of = job.replace(
            artworks=(), texts=(changed,), bleed=data.draw(st.sampled_from([0.0, 0.7])),
            placing=job.placing.replace(margin=data.draw(st.sampled_from([0.0, 2.0]))),
            conversion=job.conversion.replace(total=data.draw(st.sampled_from([150.0, 300.0]))),
        )  # fmt: skip
        turn = data.draw(st.sampled_from([0.0, 17.0]))
        found = []
        for pool in (kept, Kept[tuple[object, ...], Lettering](9)):
            monkeypatch.setattr(piece, "_LETTERINGS", pool)
            separation = piece_separation(of, store, grid, turn=turn)
            found.append(separation.plates(0, separation.size[1]))
        assert all(np.array_equal(*pair) for pair in zip(*found, strict=True))
        again = piece_separation(of, store, grid, turn=turn)
        assert again.lettering[0] is separation.lettering[0]


def codes(job: Faced, store: ArtStore) -> dict[str, Weight]:
    return {check.code: check.weight for check in run_checks(Facts(job, store))}


def test_checks_of_quantities_and_texts(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    few = job.replace(artworks=(job.artworks[0].replace(quantity=5),))
    assert codes(few, store)["pockets-empty"] is Weight.CAUTION
    many = job.replace(artworks=(job.artworks[0].replace(quantity=50),))
    assert codes(many, store)["pockets-missing"] is Weight.CAUTION
    box = TextBox(text="{name}", width=8, height=3, size=2)
    assert codes(job.replace(texts=(box,)), store)["text-column"] is Weight.STOP
    table = Table(file_name="n.csv", columns=("name",), rows=(("Ada",), ("Ω漢",)))
    lettered = job.replace(texts=(box,), table=table)
    found = codes(lettered, store)
    assert found["rows-missing"] is Weight.CAUTION and found["text-letters"] is Weight.STOP
    more = table.replace(rows=(("A" * 30,),) * 20)
    wide = lettered.replace(table=more, texts=(box.replace(fit=TextFit.KEEP),))
    assert {"rows-over", "text-wide"} <= set(codes(wide, store))
    label = Marks(label="{job}, a long label that reaches across", label_height=4, qr=True)
    assert codes(job.replace(marks=label), store)["label-on-pocket"] is Weight.CAUTION
    faceless = job.replace(texts=(box.replace(text="x", face=TypeFace.OWN),))
    assert codes(faceless, store)["text-font"] is Weight.STOP
    idle = job.replace(changes=(PocketChange(pocket=99),))
    assert codes(idle, store)["change-idle"] is Weight.NOTE
    with pytest.raises(BadInput, match="twice"):
        job.replace(artworks=(job.artworks[0],) * 2)
    with pytest.raises(BadInput, match="Only one"):
        job.replace(artworks=(art(1, None), art(2, None)))
    (tmp_path / "no.ttf").write_bytes(b"\0\1\0\0 but no font")
    with pytest.raises(BadInput, match="no\\.ttf"):
        store.add_font(tmp_path / "no.ttf")


def test_marks_and_label_are_black_alone(job: Faced, store: ArtStore) -> None:
    """Trim marks around each piece, a label and its code at the corner; nothing under them."""
    day = datetime.date(2026, 11, 23)
    marks = Marks(trim=True, length=1.5, distance=1.0, label="{job} {date} {code}", qr=True,
                  label_height=1.5)  # fmt: skip
    bare, marked = job_bed(job, store), job_bed(job.replace(marks=marks), store, today=day)
    plain, made = bare.rows(0, bare.size[1]), marked.rows(0, marked.size[1])
    assert plain is not None and made is not None
    names = [channel.name for channel in marked.channels]
    added = made.astype(int) - plain
    black = added[..., names.index("Black")]
    assert added.sum() == black.sum() and (black >= 0).all() and black.max() == 255
    per_x, per_y = marked.grid.per_mm_x, marked.grid.per_mm_y
    first = laid(job)[0]
    # The mark at the left, level with the piece's lower edge.
    x, y = first.x - 11.3 / 2 - 1.0 - 0.75, first.y - 11.3 / 2
    assert black[round((60 - y) * per_y), round(x * per_x)] == 255
    assert black[round((60 - y - 0.6) * per_y), round(x * per_x)] == 0
    only = job.replace(marks=marks.replace(trim=False))
    coded = job_bed(only, store, today=day).rows(0, bare.size[1])
    assert coded is not None
    # The code reads as what the label says.
    modules = np.array(segno.make(label_words(job.replace(marks=marks), day), error="m").matrix)
    side = 0.5
    for row, column in np.ndindex(modules.shape):
        at_x = 3.0 + (column + 0.5) * side
        at_y = 60 - 3.0 - (len(modules) - row - 0.5) * side
        value = coded[int(at_y * per_y), int(at_x * per_x), names.index("Black")]
        if plain[int(at_y * per_y), int(at_x * per_x)].sum() == 0:
            assert (value > 127) == bool(modules[row, column]), (row, column)
    without = job.replace(marks=marks, stack=(job.stack[0],))
    white = job_bed(without, store)
    assert np.array_equal(
        white.rows(0, 60), job_bed(without.replace(marks=Marks()), store).rows(0, 60)
    )


@pytest.mark.long
@given(st.floats(20, 300), st.floats(15, 200), st.floats(0, 8))
@settings(max_examples=25)
def test_parts_cover_the_artwork(wide: float, high: float, overlap: float) -> None:
    """Every place of the artwork lies on a part, neighbours share the overlap, none is idle."""
    of = TWELVE.replace(
        piece=TWELVE.piece.replace(shape=Rectangle(width=18, height=12)),
        artworks=(TWELVE.artworks[0].replace(width=wide, height=high),),
    )
    tiles = tiles_of(of, overlap)
    seen: set[tuple[int, int]] = set()
    spans_x, spans_y = set(), set()
    made = tiled(of, overlap)
    loads = loads_of(made)
    assert len(loads) == count_loads(made) == -(-tiles.count // 12)
    for load, alone in enumerate(loads):
        # The job that is queued prints what the load showed.
        shown, own = with_load(made, load), Faced(alone)
        assert allotted(shown).prints == allotted(own).prints
        assert count_loads(own) == 1
        assert {piece.number for piece in laid(own)} == set(allotted(own).prints) or load == 0
        for number, what in allotted(shown).prints.items():
            box = artwork_box(one_print(shown, what))
            assert box is not None
            # Where the piece lies on the artwork, from the artwork's lower left corner.
            left, bottom = wide / 2 - box.x - 9, high / 2 - box.y - 6
            spans_x.add(round(left, 3))
            spans_y.add(round(bottom, 3))
            seen.add((load, number))
    assert len(seen) == tiles.count == len(spans_x) * len(spans_y)
    for spans, whole, room in ((sorted(spans_x), wide, 18.0), (sorted(spans_y), high, 12.0)):
        if len(spans) > 1:
            assert spans[0] == pytest.approx(0, abs=2e-3)
            assert spans[-1] == pytest.approx(whole - room, abs=2e-3)
            gaps = np.diff(spans)
            assert (gaps <= room - overlap + 2e-3).all()
        else:
            assert whole <= room + 1e-6
    assert allotted(whole_again(made)).prints == allotted(of.replace(load=0)).prints
    with pytest.raises(BadInput, match="one artwork"):
        tiled(of.replace(artworks=(*of.artworks, of.artworks[0].replace(copy_number=1))), overlap)


def ends(box: TextBox) -> np.ndarray:
    """All corners of a box's letters, (n, 2) mm."""
    font = shipped_font(box.face)
    return np.concatenate([ring for rings in set_box(box, font) for ring in rings])


def test_type_of_several_lines_and_on_a_curve() -> None:
    box = TextBox(text="HHHH\nHH", width=40, height=20, size=4, leading=1.5)
    up = ends(box)[:, 1]
    assert up.max() == pytest.approx((4 + 6) / 2, abs=0.01) and up.min() == pytest.approx(
        -5, abs=0.01
    )
    assert type_size(box.replace(height=5), shipped_font(box.face)).size == pytest.approx(2)
    wide = box.replace(text="H" * 40)
    assert type_size(wide, shipped_font(box.face)).width == pytest.approx(40)
    # Every letter stands on the circle, as far along it as it was along the line.
    line = TextBox(text="HHHHHHHH", width=60, height=6, size=4)
    plain = [np.concatenate(rings) for rings in set_box(line, shipped_font(line.face))]
    for radius in (25.0, -25.0):
        bent = [
            np.concatenate(r) for r in set_box(line.replace(radius=radius), shipped_font(line.face))
        ]
        for before, after in zip(plain, bent, strict=True):
            along, middle = np.ptp(before[:, 0]) / 2 + before[:, 0].min(), after.mean(axis=0)
            far = middle - (0.0, -radius)
            assert np.hypot(*far) == pytest.approx(abs(radius + before.mean(axis=0)[1]), abs=0.05)
            assert np.arctan2(far[0], np.sign(radius) * far[1]) == pytest.approx(
                along / 25, abs=0.01
            )


def test_type_is_pure_black_or_in_one_ink_alone(job: Faced, store: ArtStore) -> None:
    """In black it prints black alone; in white or varnish no process ink and nothing under it."""
    bare = job.replace(artworks=(), changes=())
    box = TextBox(text="HHH", width=10, height=4, size=3)
    grid = Grid(300, 300)
    white, cyan, magenta, yellow, black, varnish = range(6)

    def plates(made: Faced) -> list[np.ndarray]:
        return list(piece_separation(made, store, grid).plates(0, 140))

    found = plates(bare.replace(texts=(box,)))
    assert found[black].max() == 255
    assert not any(found[at].any() for at in (cyan, magenta, yellow))
    for ink, at in (("White", white), ("Varnish", varnish), ("Magenta", magenta)):
        alone = plates(bare.replace(texts=(box.replace(ink=ink),)))
        assert np.array_equal(alone[at] >= 128, found[black] >= 128)
        process = [i for i in (cyan, magenta, yellow, black) if i != at]
        assert not any(alone[i].any() for i in process)
        assert alone[white].any() is np.bool_(ink in ("White", "Magenta"))
    lacking = bare.replace(texts=(box.replace(ink="Gold"),))
    assert "text-ink" in {check.code for check in run_checks(Facts(lacking, store))}
