"""Every family grows by one class: registries are whole, and refuse what is not."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import ClassVar, Literal

import numpy as np
import pytest

from farbe.checks import rules
from farbe.checks.check import RULES, Check, Facts, rule
from farbe.checks.weight import Weight
from farbe.files import writers
from farbe.files.handoff import hand_off
from farbe.files.jobfile import open_job, save_job
from farbe.files.store import ArtStore
from farbe.layout import carrier as carriers
from farbe.layout.carrier import Base, Carrier, carrier_of
from farbe.layout.faced import Faced
from farbe.layout.onbed import OnBed
from farbe.layout.outline import OUTLINES, outline
from farbe.layout.shapewords import SHAPE_WORDS
from farbe.model.kinds import Kinds
from farbe.model.medium import MEDIA, MediumValue
from farbe.model.piece import SHAPES, Rectangle, ShapeValue
from farbe.model.receiver import FileFormat
from farbe.model.source import SOURCES
from farbe.model.treatment import TREATMENTS, Choke, Curve, TreatmentValue
from farbe.plan.sentence import job_line
from farbe.plan.stations import Station
from farbe.press.machine import TestPress
from farbe.render.piece import piece_separation
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid
from farbe.separate.plates import DRAWING
from farbe.separate.treat import TREATING, StripContext, treats


def test_every_kind_has_all_that_is_done_with_it() -> None:
    assert all(kind in TREATING for kind in TREATMENTS)
    assert all(kind in DRAWING for kind in SOURCES)
    assert all(kind in OUTLINES and kind in SHAPE_WORDS for kind in SHAPES)
    stated = {one.medium for one in carriers.carriers()}
    assert stated == {*MEDIA}
    assert set(writers.WRITERS) == set(FileFormat)
    assert rules is not None and len(RULES) > 30
    for family in (TREATMENTS, SOURCES, SHAPES, MEDIA):
        kinds = [member.model_fields["kind"].default for member in family]
        assert len(set(kinds)) == len(kinds) > 1


def test_checks_find_only_what_they_name() -> None:
    """The codes in the source of the rules are those that they were entered with."""
    folder = Path(rules.__file__).parent
    source = "".join(path.read_text(encoding="utf-8") for path in folder.glob("*rules.py"))
    written = set(re.findall(r'(?:Check|_reaching|_fine)\(\s*"([a-z-]+)"', source))
    named = {code for one in RULES for code in one.codes}
    assert written <= named and named - written <= {"colour-vanishes", "white-not-printed"}


class Half(TreatmentValue):
    """Half of the coverage."""

    kind: Literal["half"] = "half"
    for_colour: ClassVar[bool] = True


class Belt(MediumValue):
    """A belt that runs under the heads, with the jig's pockets on it."""

    kind: Literal["belt"] = "belt"
    speed: float = 1.0


class OnBelt(OnBed):
    """The belt is as long as it needs to be."""

    medium = Belt
    thing = "belt"
    has_guide = False
    nothing_lies = "Nothing lies on the belt."

    def base(self, job: Faced) -> Base:
        return Base(0, 0, *self.size(job), "#303030")

    def words(self, job: Faced, count: int) -> str:
        return f"{count} on the belt"


@pytest.fixture
def half() -> Iterator[None]:
    """A treatment more: its value, and how it is done."""

    def halved(plate: Plate, treatment: Half, ground: StripContext) -> Plate:
        return np.asarray(plate // 2, np.uint8)

    TREATMENTS.enter(Half)
    treats(Half, adds=False)(halved)
    yield
    TREATMENTS.leave(Half)
    TREATING.leave(Half)


def test_a_treatment_is_one_file(half: None, job: Faced, store: ArtStore, tmp_path: Path) -> None:
    """It is saved, opened, printed and counted like any other."""
    white = job.stack[0]
    of = job.replace(stack=(white.replace(treatments=(*white.treatments, Half())), *job.stack[1:]))
    save_job(of.job, store, tmp_path / "half.farbe")
    again = open_job(tmp_path / "half.farbe", store)
    assert again == of.job and isinstance(again.faces[0].stack[0].treatments[-1], Half)
    plain, halved = (
        hand_off(one.job, store, tmp_path / name).run("artwork").ink_ml["White"]
        for name, one in (("plain", job), ("half", of))
    )
    assert halved == pytest.approx(plain / 2, abs=1.1e-4)


@pytest.fixture
def belt() -> Iterator[None]:
    """A medium more: its value, and what it means."""
    MEDIA.enter(Belt)
    carriers.carrier(OnBelt)
    yield
    MEDIA.leave(Belt)
    carriers.leave(OnBelt)


def test_a_medium_is_one_file(belt: None, job: Faced, store: ArtStore, tmp_path: Path) -> None:
    """It is saved, opened, told in the job line, handed off and printed."""
    of = job.replace(medium=Belt(speed=2.0))
    save_job(of.job, store, tmp_path / "belt.farbe")
    assert open_job(tmp_path / "belt.farbe", store) == of.job
    assert job_line(of)[0].text == "12 on the belt"
    ticket = hand_off(of.job, store, tmp_path / "out")
    assert [run.what for run in ticket.runs] == ["artwork"]
    assert (ticket.board.width, ticket.board.colour) == (80, "#303030")
    press = TestPress()
    press.take(tmp_path / "out")
    press.place()
    press.print_run("artwork", lambda *_: None)


def test_clipping_and_limits_come_after_all_treatments(job: Faced, store: ArtStore) -> None:
    """A curve from above prints nothing beyond the bleed, and passes no stated total."""
    lifted = Curve(points=((0.0, 40.0), (100.0, 100.0)))
    white, colour, _ = job.stack
    of = job.replace(
        stack=(white.replace(treatments=(lifted,)), colour.replace(treatments=(lifted,))),
        conversion=job.conversion.replace(total=180.0, each=(90.0, 80.0, 100.0, 100.0)),
        bleed=0.5,
    )  # fmt: skip
    grid = Grid(200, 200)
    made = piece_separation(of, store, grid)
    height, width = made.size[1], made.size[0]
    plates = np.stack(made.plates(0, height)).astype(int)
    y, x = np.mgrid[0:height, 0:width] + 0.5
    far = np.hypot((x - width / 2) / grid.per_mm_x, (y - height / 2) / grid.per_mm_y)
    assert not plates[:, far > 11.3 / 2 + 0.5 + 0.2].any()
    assert plates[0][far < 5].min() >= 101
    inks = plates[1:5]
    assert inks.sum(axis=0).max() <= 180 * 2.55 + 1e-6
    assert inks[0].max() <= round(90 * 2.55) and inks[1].max() <= round(80 * 2.55)


def test_a_kind_that_nobody_knows_is_said(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    given = json.loads(job.job.model_dump_json())
    given["medium"] = {"kind": "belt"}
    with pytest.raises(ValueError, match="no medium of kind 'belt'; there are: bed, roll"):
        type(job.job).model_validate(given)
    with pytest.raises(TypeError, match="nothing carries the medium belt"):
        carrier_of(Faced(job.job.model_copy(update={"medium": Belt()})))


def test_incomplete_members_are_refused() -> None:
    class Nameless(TreatmentValue):
        """Without a kind."""

        kind: str

    class Mute(TreatmentValue):
        kind: Literal["mute"] = "mute"

    class Flat(ShapeValue):
        """A shape without a height."""

        kind: Literal["flat"] = "flat"
        width: float = 1.0

    Mute.__doc__ = None
    shapes: Kinds[ShapeValue] = Kinds(ShapeValue, "shape", needs=("width", "height"))
    for family, member, words in (
        (TREATMENTS, Nameless, "needs a kind"), (TREATMENTS, Mute, "say what it is"),
        (TREATMENTS, Choke, "already"), (TREATMENTS, Rectangle, "is no treatment"),
        (shapes, Flat, "lacks its height"),
    ):  # fmt: skip
        with pytest.raises(TypeError, match=words):
            family.enter(member)  # type: ignore[arg-type]
    with pytest.raises(TypeError, match="already"):
        treats(Choke, adds=False)(lambda plate, *_: plate)
    with pytest.raises(TypeError, match="has no treating"):
        TREATING.of(Half())
    with pytest.raises(TypeError, match="has no outline"):
        outline(Flat())

    class Bare(Carrier):
        """A carrier that says nothing."""

    with pytest.raises(TypeError, match="lacks allotment, base"):
        carriers.carrier(Bare)
    with pytest.raises(TypeError, match="already"):
        carriers.carrier(OnBed)
    with pytest.raises(TypeError, match="already"):
        writers.writes(FileFormat.TIFF, suffix=".tif", splits=True, strips=lambda *_: [])(
            lambda *_: np.zeros(1)
        )


def test_a_check_that_fails_does_not_silence_the_others(job: Faced, store: ArtStore) -> None:
    with pytest.raises(TypeError, match="names nothing"):
        rule()(lambda _: iter(()))
    with pytest.raises(TypeError, match="finds 'mirroring' already"):
        rule("mirroring")(lambda _: iter(()))

    def broken(facts: Facts) -> Iterator[Check]:
        """Something that nobody foresaw."""
        raise ZeroDivisionError("there is no film")

    before = rules.run_checks(Facts(job, store))
    rule("broken")(broken)
    try:
        found = rules.run_checks(Facts(job, store))
    finally:
        RULES.pop()
    (failed,) = [check for check in found if check.code == "check-failed"]
    assert failed.weight is Weight.STOP and failed.station is Station.RUN
    assert failed.text.startswith("The check “Something that nobody foresaw” failed")
    assert failed.mishap is not None and "ZeroDivisionError" in failed.mishap.report
    assert [check.code for check in found if check is not failed] == [c.code for c in before]
