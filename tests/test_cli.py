"""The command line as a user has it: processes, exit statuses, files."""

from __future__ import annotations

import contextlib
import io
import json
import struct
import subprocess
import sys
import zlib
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
import tifffile
from PIL import Image

from conftest import Sample, small_art
from farbe import single
from farbe.art import pnghead, rowsapart
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.cli import main
from farbe.desk import pictures
from farbe.desk.window import MainWindow
from farbe.files.jobfile import save_job
from farbe.files.store import ArtStore
from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.model.text import TextBox
from farbe.render import onepass
from farbe.samples import jobs
from farbe.survey import prints


@dataclass
class Done:
    """How a command ended, and what it said."""

    returncode: int
    stdout: str
    stderr: str


def farbe(*arguments: object) -> Done:
    """A command as a user has it, in this process."""
    out, err, status = io.StringIO(), io.StringIO(), 0
    with (
        pytest.MonkeyPatch.context() as patch,
        contextlib.redirect_stdout(out),
        contextlib.redirect_stderr(err),
    ):
        patch.setattr(sys, "argv", ["farbe", *map(str, arguments)])
        try:
            main()
        except SystemExit as end:
            status = int(end.code or 0)
    return Done(status, out.getvalue(), err.getvalue())


@pytest.mark.long
def test_the_command_is_a_process(art_file: Path, tmp_path: Path) -> None:
    """As installed: exit status and one sentence on standard error."""
    done = subprocess.run(
        [sys.executable, "-m", "farbe", "separate", tmp_path / "none.png", "-o", "x.tif"],
        capture_output=True, text=True, cwd=tmp_path,
    )  # fmt: skip
    assert done.returncode == 2 and len(done.stderr.strip().splitlines()) == 1
    assert "Traceback" not in done.stderr and not done.stdout


def saved(job: Faced, store: ArtStore, folder: Path) -> Path:
    save_job(job.job, store, folder / "job.farbe")
    return folder / "job.farbe"


def test_separate_writes_the_six_inks(art_file: Path, tmp_path: Path) -> None:
    out = tmp_path / "out.tif"
    done = farbe(
        "separate", art_file, "-o", out, "--varnish", "--dpi", "300x450", "--width", 20,
        "--choke", 0.2, "--reader", "through", "--surface", "clear", "--compression", "deflate",
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    with tifffile.TiffFile(out) as file:
        page = file.pages.first
        assert page.tags["InkNames"].value.split("\0")[:6] == [
            "Cyan", "Magenta", "Yellow", "Black", "White", "Varnish",
        ]  # fmt: skip
        assert page.get_resolution(unit="INCH") == pytest.approx((300, 450))
        mirrored = page.asarray()
    assert mirrored.shape == (236, 236, 6)
    assert "Mirrored, because the reader looks through" in done.stdout
    straight = tmp_path / "straight.tif"
    farbe("separate", art_file, "-o", straight, "--varnish", "--dpi", "300x450", "--width", 20,
          "--choke", 0.2)  # fmt: skip
    assert np.array_equal(tifffile.imread(straight)[:, ::-1], mirrored)


def test_separate_leaves_fine_strokes_what_is_stated(tmp_path: Path) -> None:
    """A stroke 0.17 mm wide, which the usual choke of 0.1 mm takes where nothing is spared."""
    drawn = np.zeros((200, 200, 4), np.uint8)
    drawn[98:102, 20:180] = (200, 30, 30, 255)
    art, out = tmp_path / "art.png", tmp_path / "out.tif"
    Image.fromarray(drawn).save(art, dpi=(600, 600))
    widths = []
    for words in (("--least", 0), ("--least", 0.05), (), ("--choke", 0.2, "--least", 0.15)):
        done = farbe("separate", art, "-o", out, *words)
        assert done.returncode == 0, done.stderr
        white = tifffile.imread(out)[..., 4]
        # In the middle of the stroke, in mm.
        widths.append(white[:, 100].sum() / 255 * 25.4 / 600)
    assert widths == pytest.approx([0, 0.05, 0.1, 0.15], abs=0.01)
    refused = farbe("separate", art, "-o", out, "--least", 51)
    assert refused.returncode == 2 and "51 mm; give 0 to 50" in refused.stderr


def test_separate_reads_a_large_picture_by_rows(
    art_file: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """By a process that gets ready while the command does; the file is the same."""
    small_helpers = []
    monkeypatch.setattr("farbe.art.limited.Helpers.warm_up", lambda of: small_helpers.append(of))
    found = []
    for large in (10**9, 1000):
        monkeypatch.setattr(pnghead, "LARGE", large)
        out = tmp_path / f"{large}.tif"
        done = farbe("separate", art_file, "-o", out, "--reader", "transfer", "--choke", 0.2)
        assert done.returncode == 0, done.stderr
        found.append(out.read_bytes())
        # The one that got ready is the one that was asked.
        assert not rowsapart._begun and len(small_helpers) == 1
    assert found[0] == found[1]


@pytest.mark.parametrize(
    "size",
    [(2**31 - 1, 2**31 - 1), (2**31 - 1, 1), (1, 2**31 - 1), (400_000, 2000), (2**32 - 1,) * 2],
)
def test_a_picture_of_no_size_that_can_be_is_refused(size: tuple[int, int], tmp_path: Path) -> None:
    """Though it is being decoded while the command still loads."""
    art = tmp_path / "large.png"
    header = struct.pack(">IIBBBBB", *size, 8, 6, 0, 0, 0)
    chunks = ((b"IHDR", header), (b"IDAT", zlib.compress(bytes(1000))), (b"IEND", b""))
    art.write_bytes(pnghead.SIGNATURE + b"".join(
        struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        for kind, data in chunks
    ))  # fmt: skip
    done = farbe("separate", art, "-o", tmp_path / "out.tif")
    assert done.returncode == 2 and str(size[0]) in done.stderr
    assert "smaller" in done.stderr and len(done.stderr.splitlines()) == 1
    assert not (tmp_path / "out.tif").exists()
    rowsapart._end_begun()
    assert not rowsapart._begun


def test_separate_for_two_readers_has_every_plate_once(art_file: Path, tmp_path: Path) -> None:
    """Each reader's colour and white and the blackout, every channel under a name of its own."""
    out = tmp_path / "two.tif"
    done = farbe(
        "separate", art_file, "-o", out, "--recipe", "clear, read from both sides", "--dpi", 200
    )
    assert done.returncode == 0, done.stderr
    with tifffile.TiffFile(out) as file:
        names = file.pages.first.tags["InkNames"].value.split("\0")
        plates = file.pages.first.asarray()
    names = [name for name in names if name]
    assert names == [
        "Cyan", "Cyan 2", "Magenta", "Magenta 2", "Yellow", "Yellow 2", "Black", "Black 2",
        "Blackout", "White", "White at the face",
    ]  # fmt: skip
    # The one who looks through sees the mirror image, the other one does not.
    magenta, other = plates[..., 2], plates[..., 3]
    assert np.array_equal(magenta[:, ::-1], other) and not np.array_equal(magenta, other)
    assert plates[..., 8].any() and "blackout" in done.stdout


def test_a_fault_of_our_own_is_one_sentence_with_a_report(
    art_file: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: object, **__: object) -> None:
        raise ZeroDivisionError("nobody foresaw it")

    monkeypatch.setattr(single, "separate_file", broken)
    done = farbe("separate", art_file, "-o", tmp_path / "out.tif")
    assert done.returncode == 3 and len(done.stderr.strip().splitlines()) == 1
    assert "through a fault of Farbe" in done.stderr and "Traceback" not in done.stderr
    report = tmp_path / "state" / "report.txt"
    assert str(report) in done.stderr and "nobody foresaw it" in report.read_text("utf-8")


def test_bad_input_is_one_sentence_and_status_2(art_file: Path, tmp_path: Path) -> None:
    text = tmp_path / "text.png"
    text.write_text("no picture")
    out = tmp_path / "out.tif"
    for arguments in (
        ["separate", text, "-o", out],
        ["separate", tmp_path / "none.png", "-o", out],
        ["separate", tmp_path / f"{'n' * 300}.png", "-o", out],
        ["separate", art_file, "-o", tmp_path / "out.doc"],
        ["separate", art_file, "-o", tmp_path / "no" / "folder.tif"],
        ["separate", art_file, "-o", out, "--reader", "sideways"],
        ["separate", art_file, "-o", out, "--dpi", "many"],
        ["separate", art_file, "-o", out, "--surface", "green"],
        ["separate", art_file, "-o", out, "--width", "-3"],
        ["separate", art_file, "-o", out, "--profile", art_file],
        ["separate", art_file, "-o", out, "--recipe", "gold"],
        ["separate", art_file, "-o", out, "--width", "20000", "--dpi", "5080"],
        ["check", tmp_path / "none.farbe"],
        ["check", text],
        ["press", "print", tmp_path, "--picture", tmp_path / "x.png"],
        ["tmp/none.farbe"],
    ):
        done = farbe(*arguments)
        assert done.returncode == 2, arguments
        assert "Traceback" not in done.stderr
        assert len(done.stderr.strip().splitlines()) == 1, done.stderr
    assert not out.exists()


def test_render_hands_off_the_plates_that_it_checked(
    job: Faced, store: ArtStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Of every tile; nothing of it is left when the command ends."""
    path, taken = tmp_path / "tokens.farbe", []
    save_job(job.replace(name="Of one pass").job, store, path)
    made = onepass.made
    monkeypatch.setattr(onepass, "made", lambda *of: (taken.append(made(*of)), taken[-1])[1])
    monkeypatch.setattr(prints, "_KEPT", Kept(9))
    assert farbe("render", path, "-o", tmp_path / "out").returncode == 0
    assert taken and None not in taken
    assert onepass._now is None


def test_check_render_guide_and_press(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    path = saved(job, store, tmp_path)
    checked = farbe("check", path, "--json")
    assert checked.returncode == 0
    rows = json.loads(checked.stdout)
    assert [c["code"] for c in rows] == ["mirroring"]
    was = {"code", "weight", "text", "station", "fix"}
    assert set(rows[0]) == was | {"figure", "unit", "count", "about", "accepted", "places"}
    small = job.replace(printer=job.printer.replace(least_type=3), texts=(
        TextBox(text="Ida", width=8, height=4, size=2),))  # fmt: skip
    told = farbe("check", saved(small, store, tmp_path), "--json")
    row = next(c for c in json.loads(told.stdout) if c["code"] == "text-small")
    same = next(c for c in run_checks(Facts(small, store)) if c.code == "text-small")
    assert row["figure"] == pytest.approx(same.figure) and row["text"] == same.text
    assert row["places"][0]["pocket"] == 1 and row["places"][0]["width"] == 8.0
    assert farbe("render", path, "-o", tmp_path / "out").returncode == 0
    assert (tmp_path / "out" / "ticket.json").exists()
    assert farbe("guide", path, "-o", tmp_path / "g.svg").returncode == 0
    pressed = farbe("press", "print", tmp_path / "out", "--picture", tmp_path / "bed.png")
    assert pressed.returncode == 0, pressed.stderr
    assert "12 pieces put in by the guide" in pressed.stdout
    assert Image.open(tmp_path / "bed.png").size == (400, 300)


def test_a_stop_is_status_1_and_nothing_is_written(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    path = saved(job.replace(piece=job.piece.replace(height=80)), store, tmp_path)
    assert farbe("check", path).returncode == 1
    done = farbe("render", path, "-o", tmp_path / "out")
    assert done.returncode == 1 and "80 mm high" in done.stderr
    assert not (tmp_path / "out").exists()


def test_help_is_there_for_each(tmp_path: Path) -> None:
    for name in ("separate", "render", "check", "guide", "press", "samples", "demo"):
        done = farbe(name, "--help")
        assert done.returncode == 0 and name in done.stdout


@pytest.mark.long
def test_samples_are_written(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Two of them; each is drawn and printed in a test of its own."""
    two = {name: jobs.SAMPLES[name] for name in ("jar-labels", "name-tags")}
    monkeypatch.setattr(jobs, "SAMPLES", two)
    assert farbe("samples", tmp_path).returncode == 0
    assert {path.stem for path in tmp_path.glob("*.farbe")} == set(two)
    assert farbe("check", tmp_path / "jar-labels.farbe").returncode == 0


@pytest.mark.long
def test_pictures_of_stations(
    qapp: object, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The start page, the first sample at each station, and one of the others' pictures."""
    others = ("proof-lit",)
    monkeypatch.setattr(pictures, "_MORE", {name: pictures._MORE[name] for name in others})
    # A smaller sample in place of the first one.
    monkeypatch.setitem(jobs.SAMPLES, "jar-lids", jobs.SAMPLES["jar-labels"])
    # What the press prints is looked at elsewhere; here it takes long.
    monkeypatch.setattr(MainWindow, "send_job", lambda _: None)
    assert farbe("demo", "--pictures", tmp_path / "pictures").returncode == 0
    sizes = {p.stem: Image.open(p).size for p in (tmp_path / "pictures").iterdir()}
    wanted = ("start", "piece", "bed", "layers", "proof", "run", *others)
    assert sizes == dict.fromkeys(wanted, (1280, 800))


@pytest.mark.long
def test_proofs_from_the_command_line(sample: Sample, tmp_path: Path) -> None:
    """The look by day and lit, on another surface, and one plate; bad words are told."""
    job = saved(*sample("jar-labels"), tmp_path)
    shots = {}
    for name, options in {
        "day": (), "lit": ("--light", "behind"), "red": ("--surface", "#c02020"),
        "white": ("--plate", "white"), "face": ("--reader", "face"),
    }.items():  # fmt: skip
        done = farbe("proof", job, "-o", tmp_path / f"{name}.png", "--pixels", "300", *options)
        assert done.returncode == 0, done.stderr
        shots[name] = np.asarray(Image.open(tmp_path / f"{name}.png")).astype(int)
    assert max(shots["day"].shape) == pytest.approx(300, abs=1)
    for name in ("lit", "red", "white", "face"):
        assert np.abs(shots[name] - shots["day"]).mean() > 3
    sheet = tmp_path / "proof.pdf"
    assert farbe("proof", job, "-o", sheet).returncode == 0
    page = pypdfium2.PdfDocument(sheet)[0]
    words = page.get_textpage().get_text_range()
    assert "Thyme honey labels" in words and "clear film" in words and "Agreed" in words
    assert "ml" not in words.split() and "€" not in words
    for options, told in (
        (("--plate", "gold"), "no plate gold"), (("--light", "moon"), "no light moon"),
        (("--surface", "wood"), "neither clear"), (("--reader", "cat"), "no reader cat"),
    ):  # fmt: skip
        done = farbe("proof", job, "-o", tmp_path / "x.png", *options)
        assert done.returncode == 2 and told in done.stderr and "Traceback" not in done.stderr


@pytest.mark.long
def test_estimate_queue_press_and_test_prints_from_the_command_line(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    path = saved(job, store, tmp_path)
    found = json.loads(farbe("estimate", path, "--json").stdout)
    assert found["pieces"] == 12 and set(found["ink_ml"]) == {ink.name for ink in job.printer.inks}
    assert found["seconds"] == pytest.approx(sum(s["seconds"] for s in found["steps"]), abs=0.5)
    assert farbe("estimate", path, "--csv").stdout.splitlines()[1] == "order,pieces,12,"
    assert farbe("queue", "add", path).stdout.strip() == "1"
    assert farbe("queue", "add", path, "--held").stdout.strip() == "2"
    printed = farbe("queue", "print", "--every")
    assert printed.returncode == 0 and "Tokens is done." in printed.stdout
    listed = json.loads(farbe("queue", "list", "--json").stdout)
    assert [(e["number"], e["state"]) for e in listed] == [(2, "held")]
    assert "done" in farbe("queue", "list", "--past").stdout
    assert json.loads(farbe("press", "status", "--json").stdout)["job"] == "Tokens"
    assert farbe("press", "picture", "-o", tmp_path / "p.png", "--of", "piece").returncode == 0
    assert max(abs(side - 56.5) for side in Image.open(tmp_path / "p.png").size) <= 0.5
    refused = farbe("queue", "hold", "1")
    assert refused.returncode == 2 and "is done; it cannot be held" in refused.stderr
    assert farbe("queue", "repeat", "1", "-o", tmp_path / "again.farbe").returncode == 0
    assert farbe("check", tmp_path / "again.farbe").returncode == 0
    assert farbe("press", "off").returncode == 0
    assert "start it" in farbe("press", "status").stderr
    assert farbe("testprint", "choke", "-o", tmp_path / "choke").returncode == 0
    read = farbe(
        "testprint", "choke", "--reading", "0.2", "--recipe", "dark opaque piece",
        "-o", tmp_path / "mine.recipe.json",
    )  # fmt: skip
    assert read.returncode == 0, read.stderr
    assert '"by": 0.2' in (tmp_path / "mine.recipe.json").read_text()
    (tmp_path / "in").mkdir()
    small_art(tmp_path / "in" / "new.png")
    watched = farbe(
        "watch", tmp_path / "in", "-o", tmp_path / "made", "--recipe", "dark opaque piece", "--once"
    )
    assert watched.returncode == 0 and (tmp_path / "made" / "new" / "ticket.json").is_file()
