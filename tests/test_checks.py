"""Checks and what follows from the facts."""

from __future__ import annotations

import ast
import pickle
from pathlib import Path

import pytest

from farbe import checks
from farbe.checks.accept import accepted, asked_again
from farbe.checks.check import Check, Facts
from farbe.checks.rules import run_checks
from farbe.checks.weight import Weight
from farbe.edits.values import with_artwork
from farbe.files.handoff import hand_off_sheets
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.laid import printed
from farbe.layout.tiling import tiled
from farbe.model.base import BadInput
from farbe.model.job import Again
from farbe.model.layer import COLOUR, WHITE_UNDER
from farbe.model.piece import Circle, Material, Reader, Rectangle, Surface
from farbe.model.placing import Parts
from farbe.model.printer import LayerKind, Printer
from farbe.model.receiver import Receiver
from farbe.model.source import WholePiece
from farbe.model.text import Table
from farbe.model.treatment import Choke
from farbe.plan.order import default_stack, mirror_reason, mirrored, order_reason
from farbe.plan.recipes import RECIPES, recipe, with_recipe
from farbe.plan.sentence import job_line
from farbe.plan.stations import Station


def found(job: Faced, store: ArtStore) -> dict[str, Check]:
    checks = run_checks(Facts(job, store))
    order = ["stop", "caution", "note"]
    told = [(c.accepted, order.index(c.weight)) for c in checks]
    assert told == sorted(told)
    return {check.code: check for check in checks}


def mended(job: Faced, store: ArtStore, code: str) -> Faced:
    """The job after the fix; the finding must be gone."""
    check = found(job, store)[code]
    assert check.fix is not None
    # It may have come from another process.
    fix = pickle.loads(pickle.dumps(check.fix))
    assert code not in found(fix.mend(job), store)
    made: Faced = fix.mend(job)
    return made


def test_a_good_job_has_only_the_note_on_mirroring(job: Faced, store: ArtStore) -> None:
    checks = found(job, store)
    assert set(checks) == {"mirroring"}
    assert "not" in checks["mirroring"].text or "Nothing is mirrored" in checks["mirroring"].text


def test_choke_of_zero(job: Faced, store: ArtStore) -> None:
    bare = job.replace(stack=(WHITE_UNDER.replace(treatments=()), COLOUR))
    assert found(bare, store)["choke-zero"].weight is Weight.CAUTION
    assert mended(bare, store, "choke-zero").stack[0].treatments == (Choke(by=0.1, least=0.1),)


@pytest.mark.parametrize("reader", [Reader.FACE, Reader.THROUGH])
def test_white_artwork_without_white_ink_stops(job: Faced, store: ArtStore, reader: Reader) -> None:
    lost = job.replace(reader=reader, stack=(COLOUR,))
    check = found(lost, store)["white-not-printed"]
    assert check.weight is Weight.STOP
    kinds = [layer.kind for layer in mended(lost, store, "white-not-printed").stack]
    white_first = [LayerKind.WHITE, LayerKind.COLOUR]
    assert kinds == (white_first if reader is Reader.FACE else white_first[::-1])
    white = job.replace(piece=job.piece.replace(surface=Surface(colour="#ffffff")), stack=(COLOUR,))
    assert "white-not-printed" not in found(white, store)


def test_white_switched_off_is_switched_on_again(job: Faced, store: ArtStore) -> None:
    off = job.replace(stack=(job.stack[0].replace(on=False), *job.stack[1:]))
    assert mended(off, store, "white-not-printed").stack == job.stack


def test_white_between_reader_and_colour_stops(job: Faced, store: ArtStore) -> None:
    wrong = job.replace(stack=(job.stack[1], job.stack[0], job.stack[2]))
    assert found(wrong, store)["white-hides-colour"].weight is Weight.STOP
    assert mended(wrong, store, "white-hides-colour").stack == job.stack


def test_sizes_and_places(job: Faced, store: ArtStore) -> None:
    high = job.replace(piece=job.piece.replace(height=60))
    assert "60 mm high" in found(high, store)["piece-too-high"].text
    deep = job.replace(piece=job.piece.replace(relief=2.5))
    assert "2.5 mm" in found(deep, store)["relief-over-gap"].text
    odd = job.replace(piece=job.piece.replace(relief=3.5))
    assert found(odd, store)["relief-over-height"].weight is Weight.STOP
    coarse = job.replace(artworks=(job.artworks[0].replace(width=30, height=20),))
    assert "51 pixels per inch" in found(coarse, store)["few-pixels"].text
    bleeding = job.replace(bleed=2.2)
    assert found(bleeding, store)["bleed-overlaps"].weight is Weight.CAUTION
    assert mended(bleeding, store, "bleed-overlaps").bleed == pytest.approx(3.9 / 2)
    beyond = job.replace(jig=job.jig.replace(first_x=30))
    check = found(beyond, store)["outside-bed"]
    assert check.weight is Weight.STOP and "4, 8, 12" in check.text
    assert mended(beyond, store, "outside-bed").jig.off == frozenset({4, 8, 12})
    board = job.jig.board.replace(width=60)
    assert "outside-board" in found(job.replace(jig=job.jig.replace(board=board)), store)


def test_a_job_without_parts(job: Faced, store: ArtStore) -> None:
    assert found(job.replace(artworks=()), store)["no-artwork"].weight is Weight.STOP
    assert "no-layers" in found(job.replace(stack=()), store)
    inks = tuple(ink for ink in job.printer.inks if ink.kind is not LayerKind.VARNISH)
    assert "ink-missing" in found(job.replace(printer=job.printer.replace(inks=inks)), store)


def test_order_and_mirror_follow_from_the_reader() -> None:
    kinds = {r: [layer.kind.value for layer in default_stack(r, varnish=True)] for r in Reader}
    assert kinds[Reader.FACE] == ["white", "colour", "varnish"]
    assert kinds[Reader.THROUGH][:2] == kinds[Reader.TRANSFER][:2] == ["colour", "white"]
    assert [mirrored(r) for r in Reader] == [False, True, True]
    assert "looks through" in mirror_reason(Reader.THROUGH)
    assert "Plain does" in mirror_reason(Reader.TRANSFER, Receiver(name="Plain", mirrors=True))
    wrong = default_stack(Reader.FACE)[::-1]
    assert "hides the colour" in order_reason(Reader.FACE, wrong)


def test_the_job_line_says_the_job(job: Faced) -> None:
    words = " · ".join(phrase.text for phrase in job_line(job))
    assert "12 × token, round 11.3 mm, 3 high" in words
    assert "white, colour, varnish" in words and "read from the face" in words


def test_recipes_are_sound(job: Faced, store: ArtStore) -> None:
    for each in RECIPES:
        made = with_recipe(job, each, surface=True)
        assert not [c for c in found(made, store).values() if c.weight is Weight.STOP], each.name
        assert recipe(each.name.upper().replace(",", "")) == each
    with pytest.raises(BadInput, match="no recipe named gold"):
        recipe("gold")


def test_values_that_cannot_be_are_refused_in_a_sentence(job: Faced) -> None:
    for change in (
        lambda: job.piece.shape.replace(diameter=0),
        lambda: job.jig.replace(columns=0),
        lambda: job.replace(stack=(COLOUR, COLOUR)),
        lambda: job.replace(guide=job.guide.replace(ink="Gold")),
        lambda: job.piece.surface.replace(colour="green"),
        lambda: Circle(diameter=3).replace(diameter=float("nan")),
    ):
        with pytest.raises(BadInput) as told:
            change()
        assert "\n" not in str(told.value) and str(told.value).endswith(".")
    assert Surface().replace(material="clear").material is Material.CLEAR
    with pytest.raises(BadInput, match="same name"):
        inks = job.printer.inks
        Printer(name="x", bed_width=1, bed_height=1, max_piece_height=1).replace(
            inks=(*inks, inks[0])
        )


def test_ink_beyond_the_artwork_is_asked_about_once(job: Faced, store: ArtStore) -> None:
    small = job.replace(
        piece=job.piece.replace(shape=Rectangle(width=40, height=30)),
        artworks=(job.artworks[0].replace(width=6, height=4),),
    )
    flood = small.replace(stack=(WHITE_UNDER.replace(source=WholePiece()), *small.stack[1:]))
    assert "ink-beyond" not in found(small, store)
    assert "cm²" in found(flood, store)["ink-beyond"].text
    meant = accepted(flood, found(flood, store)["ink-beyond"])
    check = found(meant, store)["ink-beyond"]
    assert check.accepted and list(found(meant, store).values())[-1] == check
    # A larger piece lays more ink beside the artwork, and is asked about again.
    larger = meant.replace(piece=meant.piece.replace(shape=Rectangle(width=44, height=30)))
    assert not found(larger, store)["ink-beyond"].accepted
    assert not found(asked_again(meant, check), store)["ink-beyond"].accepted
    stopped = meant.replace(stack=())
    assert accepted(stopped, found(stopped, store)["no-layers"]) == stopped


def test_every_fix_can_be_sent_to_another_process() -> None:
    """No function in a function mends: only what has a name in its module is found elsewhere."""
    for path in Path(checks.__file__).parent.glob("*.py"):
        tree = ast.parse(path.read_text(encoding="utf-8"))
        named = {one.name for one in tree.body if isinstance(one, ast.FunctionDef)}
        inner = {
            one.name for one in ast.walk(tree) if isinstance(one, ast.FunctionDef)
        } - named  # fmt: skip
        for call in ast.walk(tree):
            if not (isinstance(call, ast.Call) and getattr(call.func, "id", "") == "Fix"):
                continue
            parts = list(ast.walk(call))
            assert not any(isinstance(part, ast.Lambda) for part in parts), (path, call.lineno)
            used = {part.id for part in parts if isinstance(part, ast.Name)}
            assert not used & inner, (path, call.lineno)


def test_a_receiver_that_takes_no_files_stops_a_job(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    """Before its hand-off is begun, which would say the same."""
    bare = job.replace(receiver=job.receiver.replace(name="Nobody", formats=()))
    (stop,) = [check for check in run_checks(Facts(bare, store)) if check.weight is Weight.STOP]
    assert stop.code == "no-files" and stop.station is Station.RUN and "Nobody" in stop.text
    with pytest.raises(BadInput, match="Nobody") as told:
        hand_off_sheets(bare.job, store, tmp_path / "out")
    assert str(told.value) == stop.text
    assert not [check for check in run_checks(Facts(job, store)) if check.code == "no-files"]


def nothing_left(job: Faced) -> dict[str, Faced]:
    """Jobs of which no piece gets a print, by what is said of it."""
    art = job.artworks[0]
    parts = tiled(with_artwork(job, 0, width=3 * art.width, height=3 * art.height), 2.0)
    table = Table(file_name="names.csv", columns=("art",), rows=(("other.png",),))
    return {
        "overlap of 2 mm": parts.replace(
            piece=job.piece.replace(shape=Rectangle(width=9, height=2))
        ),
        "parts now, and": parts.replace(parts=Parts(overlap=2.0, first=90)),
        "would take": parts.replace(parts=Parts(overlap=11.29)),
        "load 8 prints nothing": parts.replace(load=7),
        "raise a quantity": job.replace(artworks=(art.replace(quantity=0),)),
        "names an artwork": job.replace(table=table, artwork_column="art"),
        # Its second load: the first one is no remedy.
        "add what it names": job.replace(
            table=table.replace(rows=table.rows * 13), artwork_column="art", load=1
        ),
        "printed again": job.replace(
            artworks=(art.replace(quantity=1),), again=Again(numbers=(2,))
        ),
        "switched off": job.replace(jig=job.jig.replace(off=frozenset(range(1, 13)))),
        "others again": job.replace(
            jig=job.jig.replace(off=frozenset({2})), again=Again(numbers=(2,))
        ),
    }  # fmt: skip


def test_why_nothing_prints_is_said_before_the_hand_off(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    """In the words of the hand-off; what one click mends is mended by it."""
    for said, bare in nothing_left(job).items():
        told = found(bare, store)
        stop = told.get("no-prints") or told["no-pockets"]
        assert stop.weight is Weight.STOP and said in stop.text, (said, stop.text)
        with pytest.raises(BadInput) as refused:
            hand_off_sheets(bare.job, store, tmp_path / "out")
        assert str(refused.value) == stop.text
        assert (stop.fix is not None) == (bare.parts is not None or bool(bare.jig.off))
        if stop.fix is not None:
            assert printed(mended(bare, store, stop.code))
    assert "no-prints" not in found(job, store)
