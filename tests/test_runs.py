"""Modes, runs, time, ink, cost and receivers."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import numpy as np
import pytest
import tifffile

from conftest import small_art
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.estimate.cost import order_cost
from farbe.estimate.estimate import Estimate, InkUse, estimate
from farbe.estimate.report import compared
from farbe.estimate.runs import runs
from farbe.estimate.steps import Busy, Step, seconds_of, steps
from farbe.estimate.swaths import run_seconds, swath_seconds
from farbe.files.handoff import hand_off, planned_files
from farbe.files.store import ArtStore
from farbe.files.ticket import read_ticket
from farbe.layout.faced import Faced
from farbe.layout.rolls import film_length
from farbe.model.base import BadInput
from farbe.model.layer import COLOUR, WHITE_UNDER
from farbe.model.piece import Material, Reader, Surface
from farbe.model.placing import Placing
from farbe.model.printer import Printer, Throw
from farbe.model.roll import Roll
from farbe.model.running import Prices, Times
from farbe.plan.printers import PRINTERS
from farbe.plan.receivers import RECEIVERS
from farbe.press.machine import TestPress
from farbe.render.footprints import ganged


def separate(job: Faced, **fields: object) -> Faced:
    return job.replace(running=job.running.replace(separate=True, **fields))


def test_a_mode_sets_the_printer_and_is_told_from_it() -> None:
    for printer in PRINTERS:
        assert printer.mode is not None and printer.mode.name == "standard"
        for mode in printer.modes:
            assert printer.in_mode(mode).mode == mode
    fine = PRINTERS[0].in_mode(PRINTERS[0].modes[1])
    assert fine.passes == 16 and not fine.both_ways
    assert PRINTERS[0].replace(passes=3).mode is None
    draft = PRINTERS[0].in_mode(PRINTERS[0].modes[-1])
    assert draft.laid(draft.inks[0]) == pytest.approx(0.7 * draft.inks[0].laydown)


def test_time_of_swaths_by_hand() -> None:
    printer = Printer(
        name="P", bed_width=500, bed_height=400, max_piece_height=50,
        swath=36, speed=600, turn=0.5, both_ways=False,
    )  # fmt: skip
    # 100 mm are three swaths, each crossed 4 times; 0.5 s there at 600 mm/s and as long back.
    assert swath_seconds(printer, 300, 100, passes=4) == pytest.approx(12 * (0.5 + 0.5 + 0.5 + 0.5))
    both = printer.replace(both_ways=True)
    assert swath_seconds(both, 300, 100, passes=4) == pytest.approx(12 * (0.5 + 0.5))
    assert swath_seconds(both, 300, 100, passes=4, slow=0.5) == pytest.approx(12 * (1.0 + 0.5))
    assert swath_seconds(both, 0, 100, passes=4) == 0


def test_one_run_and_separate_runs(job: Faced) -> None:
    one, apart = runs(job), runs(separate(job))
    assert [run.name for run in one] == ["guide", "artwork"]
    assert [run.name for run in apart] == ["guide", "artwork-1", "artwork-2", "artwork-3"]
    assert [[la.name for la in run.layers] for run in apart[1:]] == [
        ["White"],
        ["Colour"],
        ["Varnish"],
    ]
    listed = steps(separate(job, dry=120))
    dried = [step for step in listed if step.kind is Busy.WAITING]
    assert len(dried) == 2 and seconds_of(listed, Busy.WAITING) == 240
    assert sum(step.text == "Return to the datum" for step in listed) == 2
    # Three rows of heads, 40 mm apart, pass over 49.4 mm: two swaths more than it alone takes.
    rows = run_seconds(one[1])
    alone = run_seconds(apart[1])
    extent = 3 * (11.3 + 4.7) + 11.3
    crossing = extent / job.printer.speed + job.printer.turn
    assert alone == pytest.approx(2 * 8 * crossing)
    assert rows == pytest.approx(4 * 8 * crossing)
    wide = job.replace(running=job.running.replace(whole_width=True))
    assert run_seconds(runs(wide)[1]) == pytest.approx(4 * 8 * (80 / 700 + 0.6))
    slow = job.replace(running=job.running.replace(exact=True))
    assert run_seconds(runs(slow)[1]) == pytest.approx(4 * 8 * (extent / 350 + 0.6))


def test_register_of_both_ways_by_hand(job: Faced) -> None:
    """300 mm away, 0.01 degrees are 0.052 mm and 0.01 percent are 0.03 mm."""
    one, apart = compared(job)
    assert one.register == pytest.approx(np.hypot(0.06, 0.04))
    far = float(np.hypot(59.3, 41.7))
    assert apart.register - one.register == pytest.approx(far * (0.01 * np.pi / 180 + 1e-4))
    assert [way.words for way in (one, apart)] == ["one run", "separate runs"]


def test_checks_of_runs_and_throw(job: Faced, store: ArtStore) -> None:
    long = separate(job, register_length=30)
    found = {c.code: c for c in run_checks(Facts(long, store))}
    mended = found["separate-runs-long"].fix.mend(long)  # type: ignore[union-attr]
    assert not mended.running.separate
    falls = job.replace(
        piece=job.piece.replace(relief=2.5),
        printer=PRINTERS[0].replace(bed_width=80, bed_height=60),
    )
    check = next(c for c in run_checks(Facts(falls, store)) if c.code == "relief-over-gap")
    curved = check.fix.mend(falls)  # type: ignore[union-attr]
    assert curved.printer.throw is Throw.FAR and curved.printer.mode.name == "curved pieces"  # type: ignore[union-attr]
    assert "relief-over-gap" not in {c.code for c in run_checks(Facts(curved, store))}


def test_cost_by_hand() -> None:
    found = Estimate((InkUse("White", "White", 100.0, 18.0),), 20, 900.0)
    listed = (
        Step("a", "", 1800.0, Busy.PRINTING),
        Step("b", "", 900.0),
        Step("c", "", 999.0, Busy.WAITING),
    )
    prices = Prices(piece=1.5, work_hour=40, machine_hour=12, waste=10, margin=50)
    cost = order_cost(found, listed, prices)
    assert (cost.ink, cost.material, cost.work, cost.machine) == (18, 30, 10, 6)
    assert cost.waste == pytest.approx(4.8) and cost.total == pytest.approx(68.8)
    assert cost.price == pytest.approx(103.2) and cost.each == pytest.approx(5.16)


def test_powder_is_paid_by_the_film_and_pressing_by_the_cycle(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    """Two hundred logos on three metres of film take minutes of powder, not hours."""
    art = store.add_artwork(small_art(tmp_path / "logo.png")).replace(
        width=50, height=30, quantity=200
    )
    made = ganged(job.replace(
        reader=Reader.TRANSFER, stack=(COLOUR, WHITE_UNDER), artworks=(art,), placing=Placing(),
        bleed=0.0, medium=Roll(width=560),
        piece=job.piece.replace(surface=Surface(material=Material.TEXTILE), height=0.0),
    ), store)  # fmt: skip
    times = Times(powder=100, powder_metre=60, press=30, at_once=4)
    made = made.replace(running=made.running.replace(times=times))
    by_words = {step.text: step.seconds for step in steps(made)}
    metres = film_length(made) / 1000
    assert 0.5 < metres < 4
    assert by_words["Powder and melt"] == pytest.approx(100 + 60 * metres)
    assert by_words["Press and peel"] == 50 * 30


@pytest.mark.long
@pytest.mark.parametrize("receiver", RECEIVERS, ids=lambda r: r.name)
def test_each_receiver_gets_what_it_takes(
    job: Faced, store: ArtStore, tmp_path: Path, receiver: object
) -> None:
    """The same ink everywhere, the channels as announced, and the press prints the same picture."""
    made = job.replace(receiver=receiver)
    ticket = hand_off(made.job, store, tmp_path / "files")
    reference = hand_off(job.job, store, tmp_path / "reference")
    run, plain = ticket.run("artwork"), reference.run("artwork")
    assert sum(run.ink_ml.values()) == pytest.approx(sum(plain.ink_ml.values()), abs=1e-3)
    announced = planned_files(runs(made)[1])
    assert [f.name for f in announced] == [f.name for f in run.files]
    for file in run.files:
        path = tmp_path / "files" / file.name
        if file.format == "tiff":
            shown = subprocess.run(["tiffinfo", str(path)], capture_output=True, text=True).stdout
            named = shown.split("Ink Names:")[1].splitlines()[0]
            assert [n.strip() for n in named.split(",")] == list(file.channels)
    if any(file.format == "tiff" for file in run.files):
        assert np.abs(printed(tmp_path / "files") - printed(tmp_path / "reference")).max() <= 1


def printed(folder: Path) -> np.ndarray:
    press = TestPress()
    ticket = press.take(folder)
    for run in ticket.runs:
        press.print_run(run.name, lambda *_: None)
        if run.what == "guide":
            press.place()
    return press.picture().astype(int)


def test_inverted_plates_are_the_others_turned(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    hand_off(job.job, store, tmp_path / "a")
    hand_off(job.replace(receiver=job.receiver.replace(inverted=True)).job, store, tmp_path / "b")
    one, other = (tifffile.imread(tmp_path / x / "artwork.tif") for x in "ab")
    assert (one == 255 - other).all()
    with tifffile.TiffFile(tmp_path / "b" / "artwork.tif") as file:
        assert file.pages[0].tags["DotRange"].value[:2] == (255, 0)


def test_separate_runs_print_the_same_and_add_up(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    one = hand_off(job.job, store, tmp_path / "one")
    ticket = hand_off(separate(job, dry=300).job, store, tmp_path / "apart")
    assert [run.dry_seconds for run in ticket.runs] == [0, 300, 300, 300]
    ml: dict[str, float] = {}
    for run in ticket.runs[1:]:
        ml |= run.ink_ml
    assert ml == one.run("artwork").ink_ml
    assert (printed(tmp_path / "one") == printed(tmp_path / "apart")).all()
    read_ticket(tmp_path / "apart")
    with pytest.raises(BadInput, match="no run for the artwork"):
        ticket.run("artwork")
    # The guide's ink is counted as well; tickets round to a tenth of a microlitre.
    whole = {use.channel + use.layer: use.ml for use in estimate(job, store).inks}
    guide = one.run("guide")
    told = {c + la.name: guide.ink_ml[c] for la in guide.layers for c in la.channels}
    told |= {c + la.name: ml[c] for la in one.run("artwork").layers for c in la.channels}
    assert whole.keys() == told.keys()
    assert all(whole[use] == pytest.approx(told[use], abs=1.01e-4) for use in told)
    assert json.loads(ticket.model_dump_json())["version"] == 5
