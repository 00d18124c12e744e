"""The test press as the judge: from job to printed bed, through processes and files only."""

from __future__ import annotations

import json
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image

from farbe.art.profiles import shipped_profile
from farbe.files.handoff import hand_off
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.model.base import BadInput
from farbe.model.piece import Circle, Piece, Reader
from farbe.model.treatment import Choke
from farbe.press.answers import understood
from farbe.press.client import Press, press_of, start_press
from farbe.press.machine import SCALE, TestPress
from farbe.press.memory import LEDGER, Memory

PROFILE = shipped_profile()


def handed(job: Faced, store: ArtStore, folder: Path) -> Path:
    hand_off(job.job, store, folder)
    return folder


def crop(picture: np.ndarray, x: float, y: float, side: float, bed_height: float) -> np.ndarray:
    """A square of a press picture around a place in mm."""
    half = side / 2
    rows = slice(round((bed_height - y - half) * SCALE), round((bed_height - y + half) * SCALE))
    return picture[rows, round((x - half) * SCALE) : round((x + half) * SCALE)]


def likeness(one: np.ndarray, other: np.ndarray) -> float:
    """Correlation of two pictures."""
    a, b = (p.astype(float) - p.mean() for p in (one, other))
    return float((a * b).sum() / np.sqrt((a * a).sum() * (b * b).sum()))


@pytest.mark.long
def test_the_sample_prints_right_reading_lids_in_their_pockets(
    lids: tuple[Faced, ArtStore], tmp_path: Path
) -> None:
    job, store = lids
    job = job.replace(printer=job.printer.replace(dpi_x=200, dpi_y=300))
    folder = handed(job, store, tmp_path / "out")
    with Press() as press:
        assert press.send(folder)["pockets"] == 21
        press.ask(do="print", run="guide")
        placed = press.ask(do="place")
        press.ask(do="print", run="artwork")
        press.ask(do="picture", path=str(tmp_path / "bed.png"))
    ticket = json.loads((folder / "ticket.json").read_text())
    # The press finds the pockets by the lines that it printed; that is where the artwork goes.
    by_guide = sorted((round(x), round(y)) for x, y in placed["at"])
    by_ticket = sorted((round(p["x"]), round(p["y"])) for p in ticket["pockets"])
    assert by_guide == by_ticket
    pixel = 1 / SCALE
    for pocket in ticket["pockets"]:
        off = min(
            max(abs(x - pocket["x"]), abs(y - pocket["y"])) for x, y in placed["at"]
        )  # fmt: skip
        assert off <= pixel
    bed = np.asarray(Image.open(tmp_path / "bed.png").convert("L"))
    assert job.artwork is not None
    art = Image.open(store.path(job.artwork.digest)).convert("RGBA")
    side = round(66 * SCALE)
    ground = Image.new("RGBA", art.size, job.piece.surface.colour)
    ground.alpha_composite(art)
    wanted = np.asarray(ground.convert("L").resize((side, side), Image.Resampling.BOX))
    y, x = np.mgrid[0:side, 0:side]
    on_lid = (x - side / 2) ** 2 + (y - side / 2) ** 2 < (side / 2) ** 2
    for pocket in ticket["pockets"]:
        lid = crop(bed, pocket["x"], pocket["y"], 66, 300)
        right = likeness(lid[on_lid], wanted[on_lid])
        assert right > 0.9
        for wrong in (wanted[:, ::-1], wanted[::-1], np.roll(wanted, 4, axis=1)):
            assert likeness(lid[on_lid], wrong[on_lid]) < right - 0.1


def test_white_lettering_shows_only_with_white_ink(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    def brightest(of: Faced, name: str) -> int:
        press = TestPress()
        press.take(handed(of, store, tmp_path / name))
        press.place()
        press.print_run("artwork", lambda *_: None)
        x, y = press.bed.pieces[0].x, press.bed.pieces[0].y
        return int(crop(press.picture(), x, y, 7, 60).min(axis=2).max())

    without = job.replace(stack=job.stack[1:2])
    assert brightest(job, "with") > 170
    assert brightest(without, "without") < 90


@pytest.mark.parametrize(("choke", "kept"), [(0.5, True), (0.12, False), (0.0, False)])
def test_nothing_white_beyond_the_colour(
    job: Faced, store: ArtStore, tmp_path: Path, choke: float, kept: bool
) -> None:
    """White shifted by up to 0.4 mm stays within the colour's shape, if it is choked by more.

    The register of 0.4 mm is two pixels across and three along; a choke under it shows white.
    """
    white = job.stack[0].replace(treatments=(Choke(by=choke),))
    of = job.replace(stack=(white, *job.stack[1:]))
    pixels = tifffile.imread(handed(of, store, tmp_path) / "artwork.tif")
    laid_down, shape = pixels[..., 4].astype(int), pixels[..., 5].astype(int)
    reach = tuple(int(0.4 * dpi / 25.4) for dpi in (210, 150))
    assert reach == (3, 2)
    beyond = max(
        int((np.roll(laid_down, (dy, dx), (0, 1)) - shape).max())
        for dy in range(-reach[0], reach[0] + 1)
        for dx in range(-reach[1], reach[1] + 1)
    )
    assert (beyond <= 0) is kept, beyond


@pytest.mark.parametrize("by_receiver", [False, True])
def test_read_through_lands_mirrored_in_the_same_pockets(
    job: Faced, store: ArtStore, tmp_path: Path, by_receiver: bool
) -> None:
    """Whoever mirrors, what is printed on the bed is the same."""

    def printed(of: Faced, name: str) -> np.ndarray:
        press = TestPress()
        press.take(handed(of, store, tmp_path / name))
        press.print_run("guide", lambda *_: None)
        assert press.place() == 12
        press.print_run("artwork", lambda *_: None)
        return press.picture()

    receiver = job.receiver.replace(mirrors=by_receiver)
    face = printed(job, "face")
    through = printed(job.replace(reader=Reader.THROUGH, receiver=receiver), "through")
    first = laid(job)[0]
    x, y = first.x, first.y
    there, here = crop(through, x, y, 7, 60), crop(face, x, y, 7, 60)
    assert likeness(there[:, ::-1], here) > 0.97
    assert likeness(there, here) < 0.9


def test_the_press_refuses_what_a_printer_would(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    folder = handed(job, store, tmp_path / "out")
    good = json.loads((folder / "ticket.json").read_text())

    def refused(words: str, **changes: object) -> None:
        (folder / "ticket.json").write_text(json.dumps(good | changes))
        with pytest.raises(BadInput, match=words):
            TestPress().take(folder)

    refused("head clears", pieces=[good["pieces"][0] | {"height": 140.0}])
    refused("outside the bed", pockets=[{"number": 1, "x": 2.0, "y": 30.0}])
    refused("bed of", bed_width=9000.0)
    strange = [
        dict(r, layers=[dict(r["layers"][0], channels=["Gold"], inks=["Gold"])])
        for r in good["runs"]
    ]
    refused("no ink named Gold", runs=strange)
    climbing = [dict(r, files=[dict(r["files"][0], name="../../x.tif")]) for r in good["runs"]]
    refused("outside its folder", runs=climbing)
    (folder / "ticket.json").write_text(json.dumps(good))
    press = TestPress()
    press.take(folder)
    with pytest.raises(BadInput, match="no pieces"):
        press.print_run("artwork", lambda *_: None)
    (folder / "artwork.tif").write_bytes((folder / "artwork.tif").read_bytes()[:300])
    press.place()
    with pytest.raises(BadInput, match="cannot be printed"):
        press.print_run("artwork", lambda *_: None)


def test_a_press_that_dies_is_said(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    folder = handed(job, store, tmp_path / "out")
    with Press() as press:
        press.send(folder)
        press._process.kill()
        press._process.wait()
        with pytest.raises(BadInput, match="nothing is lost"):
            press.ask(do="print", run="guide")


def test_a_run_is_in_the_ledger_once_when_power_fails_before_it_is(tmp_path: Path) -> None:
    memory = Memory(tmp_path)
    for token in ("", "one", "two"):
        memory.begin(token, tmp_path / "job", None)
        memory.add(do="print", run="guide", out=[])
    ledger = tmp_path / LEDGER
    whole = ledger.read_text()
    assert [json.loads(line)["token"] for line in whole.splitlines()] == ["", "one", "two"]
    ledger.write_text("".join(whole.splitlines(keepends=True)[:-1]))
    for _ in range(2):
        memory = Memory(tmp_path)
        assert ledger.read_text() == whole
    memory.add(do="place")
    memory.begin("one", tmp_path / "job", None)
    Memory(tmp_path)
    assert ledger.read_text() == whole


@pytest.mark.long
def test_programs_that_start_a_press_at_once_share_one(tmp_path: Path) -> None:
    with ThreadPoolExecutor() as threads:
        started = list(threads.map(lambda _: start_press(tmp_path, lasting=False), range(4)))
    try:
        # It stays while the others find that they are not needed.
        until = time.monotonic() + 20
        while [one.poll() for one in started].count(0) < 3:
            assert time.monotonic() < until
            time.sleep(0.02)
        with press_of(tmp_path) as press:
            assert press.ask(do="fill", ink="cyan", ml=7) == {"status": "done"}
            press.ask(do="quit")
        # Another one starts at once, and finds what that one left.
        with press_of(tmp_path) as press:
            assert press.ask(do="status")["ink_ml"]["cyan"] == 7
            press.ask(do="quit")
    finally:
        for one in started:
            one.kill()
            one.wait()


def test_a_guide_is_found_for_other_shapes(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    from farbe.model.piece import Rectangle

    for number, shape in enumerate((Circle(diameter=9), Rectangle(width=12, height=8))):
        piece = Piece(name="tile", shape=shape, height=1)
        press = TestPress()
        press.take(handed(job.replace(piece=piece), store, tmp_path / str(number)))
        press.print_run("guide", lambda *_: None)
        assert press.place() == 12


@pytest.mark.parametrize(
    ("asked", "line"),
    [
        ("status", "nothing"),
        ("status", '{"status": 7}'),
        ("status", '{"status": "done"}'),
        ("place", '{"status": "done", "pieces": "many"}'),
        ("place", '{"status": "done", "pieces": -1}'),
        (
            "finished",
            '{"status": "done", "garments": [],'
            ' "pieces": [{"number": 0, "box": [1, 2, NaN, 4], "of": []}]}',
        ),
        ("print", '{"status": "refused", "why": 12}'),
    ],
)  # fmt: skip
def test_what_no_press_says_is_not_believed(asked: str, line: str) -> None:
    with pytest.raises(BadInput, match="cannot be understood"):
        understood(line, asked)


def test_what_a_press_says_is_understood() -> None:
    """Every answer that the service gives passes, whatever is on its bed."""
    with Press() as press:
        status = press.ask(do="status")
        assert status["job"] is None and status["ready"]
        assert understood('{"status": "printing", "layer": "white", "done": 0.5}', "print")
        assert press.ask(do="fill") == {"status": "done"}
