"""Files, judged by programs that are not ours."""

from __future__ import annotations

import json
import shutil
import subprocess
import zipfile
from pathlib import Path

import imagecodecs
import numpy as np
import pikepdf
import pypdfium2
import pytest
import tifffile
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from PIL import Image

from conftest import small_art
from farbe import atomic
from farbe.art.profiles import shipped_profile
from farbe.files import tiff, tifftags
from farbe.files.handoff import hand_off
from farbe.files.jobfile import SCHEMA, open_job, save_job
from farbe.files.lzw import lzw_encoded
from farbe.files.pdf import write_pdf
from farbe.files.store import ArtStore
from farbe.files.ticket import read_ticket
from farbe.files.tiff import write_tiff
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.face import SamePrint, Turning
from farbe.model.medium import Bed
from farbe.model.piece import Reader
from farbe.model.receiver import Compression
from farbe.model.roll import Roll
from farbe.model.text import TextBox
from farbe.render import raster
from farbe.render.bed import BedRaster, job_bed
from farbe.render.raster import Cancelled, Overlaid, SomeChannels, row_names, rows_at_once

PROFILE = shipped_profile()
NAMES = ["Cyan", "Magenta", "Yellow", "Black", "White", "Varnish"]


@pytest.fixture
def bed(job: Faced, store: ArtStore) -> BedRaster:
    return job_bed(job, store)


def all_rows(bed: BedRaster) -> np.ndarray:
    rows = bed.rows(0, bed.size[1])
    assert rows is not None
    return rows


@pytest.mark.parametrize("compression", list(Compression))
@pytest.mark.parametrize("rows", [64, 1])
def test_libtiff_and_tifffile_read_our_tiff(
    bed: BedRaster,
    tmp_path: Path,
    compression: Compression,
    rows: int,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    path = tmp_path / "plates.tif"
    # Rows of this small bed are strips of their own only if so short ones may be.
    monkeypatch.setattr(tiff, "LEAST_STRIP", 1 if rows == 1 else 1 << 30)
    sums = write_tiff(bed, path, compression=compression)
    pixels = all_rows(bed)
    assert np.array_equal(tifffile.imread(path), pixels)
    assert sums.tolist() == pixels.sum(axis=(0, 1), dtype=np.int64).tolist()
    told = subprocess.run(
        ["tiffinfo", path], capture_output=True, text=True, check=True
    ).stdout  # fmt: skip
    assert f"Ink Names: {', '.join(NAMES)}" in told
    assert "NumberOfInks: 6" in told
    assert f"Rows/Strip: {rows}\n" in told
    assert "Resolution: 150, 210 pixels/inch" in told
    assert "Photometric Interpretation: separated" in told
    again = tmp_path / "again.tif"
    subprocess.run(["tiffcp", "-c", "none", path, again], capture_output=True, check=True)
    assert np.array_equal(tifffile.imread(again), pixels)


@given(hnp.arrays(np.uint8, hnp.array_shapes(max_dims=3, max_side=40)), st.sampled_from([1, 3, 50]))
def test_code_of_any_samples_is_read_by_another_decoder(samples: np.ndarray, times: int) -> None:
    repeated = np.tile(samples, (times, *[1] * (samples.ndim - 1)))
    code = bytes(lzw_encoded(repeated))
    # One byte more would be taken, were there any.
    assert imagecodecs.lzw_decode(code, out=repeated.nbytes + 1) == repeated.tobytes()


@pytest.mark.parametrize("least_strip", [1 << 30, 1])
def test_files_are_the_same_however_many_rows_are_made_at_once(
    bed: BedRaster, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, least_strip: int
) -> None:
    """Of strips of many rows, and where rows that are alike are strips of their own."""
    monkeypatch.setattr(tiff, "LEAST_STRIP", least_strip)

    def made(pixels: int) -> tuple[bytes, list[bytes]]:
        """By so many pixels of a print at once: a TIFF, and the planes of a PDF."""
        monkeypatch.setattr(raster, "PART_PIXELS", pixels)
        write_tiff(bed, tmp_path / "plates.tif", compression=Compression.LZW)
        write_pdf(bed, tmp_path / "plates.pdf")
        with pikepdf.open(tmp_path / "plates.pdf") as pdf:
            images = [one for one in pdf.objects if isinstance(one, pikepdf.Stream)
                      and one.get("/Subtype") == "/Image"]  # fmt: skip
            return (tmp_path / "plates.tif").read_bytes(), [one.read_bytes() for one in images]

    monkeypatch.setattr(raster, "PART_PIXELS", 64 * bed.widest)
    assert rows_at_once(bed, 5, bed.size[1])[:2] == [(5, 69), (69, 133)]
    assert rows_at_once(bed, 5, 6) == [(5, 6)] and rows_at_once(bed, 5, 5) == []
    monkeypatch.setattr(raster, "PART_PIXELS", 200 * bed.widest)
    # At most 192 rows, and as many parts for each of two threads.
    assert rows_at_once(bed, 0, 192 * 3 + 1) == [(0, 192), (192, 384), (384, 576), (576, 577)]
    assert rows_at_once(bed, 0, 300) == [(0, 192), (192, 300)]
    assert rows_at_once(bed, 0, 500) == [(0, 128), (128, 256), (256, 384), (384, 500)]
    twice = Overlaid(((bed, (0,)), (SomeChannels(bed, (4,)), (0,))), bed.channels[:1])
    assert rows_at_once(twice, 0, 300) == [(0, 192), (192, 300)]

    # Where much lies around, more are made: twice as many, or as many as all of that may be.
    class Around(SomeChannels):
        around = 400

    wide = Around(bed, tuple(range(len(bed.channels))))
    assert rows_at_once(wide, 0, 3000)[:2] == [(0, 768), (768, 1536)]
    monkeypatch.setattr(raster, "SEEN_PIXELS", bed.widest * (2 * 400 + 256))
    assert rows_at_once(wide, 0, 2000)[:2] == [(0, 256), (256, 512)]
    monkeypatch.setattr(raster, "SEEN_PIXELS", 1)
    assert rows_at_once(wide, 0, 300) == [(0, 192), (192, 300)]
    # A strip is made at once, however much that is, and what lies in all rows is bounded.
    assert made(1) == made(200 * bed.widest)
    monkeypatch.setattr(raster, "PART_BYTES", 1)
    assert rows_at_once(bed, 0, bed.size[1])[0] == (0, 64)


@pytest.mark.long
def test_rows_of_one_name_are_alike_and_encoded_once(
    job: Faced, store: ArtStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    text = TextBox(text="lid {#}", width=8, y=-2, height=2)
    beds = [
        job_bed(job.replace(**change), store)
        for change in (
            {},
            {"medium": Bed(turned=True)},
            {"reader": Reader.THROUGH, "receiver": job.receiver.replace(mirrors=True)},
            {"jig": job.jig.replace(turned=90, rows=1)},
            {"texts": (text,)},
        )
    ]
    first, *others = beds
    nest = Overlaid(tuple((bed, tuple(range(6))) for bed in (first, others[0])), first.channels)
    for one in (*beds, nest, SomeChannels(nest, (4,))):
        names = row_names(one)
        assert names is not None and len(names) == one.size[1]
        rows = [one.rows(at, at + 1) for at in range(one.size[1])]
        assert all(row is None or not row.any() for row in np.array(rows, object)[names == 0])
        for name in np.unique(names):
            alike = [rows[at] for at in np.flatnonzero(names == name)]
            assert all(row is None or np.array_equal(row, alike[0]) for row in alike), name
    # Rows of pockets below each other are the same ones.
    encoded = []
    monkeypatch.setattr(tiff, "LEAST_STRIP", 1)
    monkeypatch.setattr(tiff, "_encoder", lambda _: lambda p: encoded.append(1) or p.tobytes())
    write_tiff(first, tmp_path / "plates.tif", compression=Compression.NONE)
    assert len(encoded) == len(np.unique(row_names(first))) < first.size[1] / 2


def test_a_large_tiff_becomes_bigtiff(
    bed: BedRaster, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "big.tif"
    monkeypatch.setattr(tifftags, "CLASSIC_END", 10_000)
    write_tiff(bed, path, compression=Compression.DEFLATE)
    assert path.read_bytes()[:4] == b"II\x2b\x00"
    assert np.array_equal(tifffile.imread(path), all_rows(bed))
    done = subprocess.run(["tiffinfo", path], capture_output=True, text=True, check=True)
    assert "White, Varnish" in done.stdout


def test_ghostscript_gives_every_plate_back(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    hand_off(job.job, store, tmp_path / "out")
    subprocess.run(
        ["gs", "-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", "-sDEVICE=tiffsep", "-r150x210",
         f"-sOutputFile={tmp_path}/sep.tif", str(tmp_path / "out" / "artwork.pdf")],
        check=True, capture_output=True,
    )  # fmt: skip
    wanted = all_rows(job_bed(job, store))
    for index, name in enumerate(NAMES):
        plate = np.asarray(Image.open(tmp_path / f"sep({name}).tif"))
        assert np.array_equal(255 - plate, wanted[..., index]), name


def test_the_pdf_says_what_its_layers_are(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    hand_off(job.job, store, tmp_path)
    with pikepdf.open(tmp_path / "artwork.pdf") as pdf:
        groups = {str(g.Name): g for g in pdf.Root.OCProperties.OCGs}
        assert list(groups) == ["White", "Varnish", "Colour"]
        assert groups["White"].GTS_Metadata.GTS_ProcStepsGroup == pikepdf.Name.White
        assert groups["Varnish"].GTS_Metadata.GTS_ProcStepsGroup == pikepdf.Name.Varnish
        assert "/GTS_Metadata" not in groups["Colour"]
        assert pdf.pages[0].Resources.ExtGState.Over.OP is not None
    page = pypdfium2.PdfDocument(tmp_path / "artwork.pdf")[0]
    width, height = (side / 72 * 25.4 for side in page.get_size())
    assert width == pytest.approx(80, abs=25.4 / 150)
    assert height == pytest.approx(60, abs=25.4 / 210)


def test_the_ticket_says_order_hits_and_ink(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    hand_off(job.job, store, tmp_path)
    ticket = read_ticket(tmp_path)
    guide, artwork = ticket.runs
    assert (guide.what, artwork.what) == ("guide", "artwork")
    assert [layer.name for layer in artwork.layers] == ["White", "Colour", "Varnish"]
    pixels = tifffile.imread(tmp_path / "artwork.tif")
    square_metres = (0.0254 / 150) * (0.0254 / 210)
    white = pixels[..., 4].sum() / 255 * square_metres * 14.0
    assert artwork.ink_ml["White"] == pytest.approx(white, abs=1e-4)
    assert len(ticket.pockets) == 12


def test_save_then_open_is_the_same_job(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    path = tmp_path / "job.farbe"
    save_job(job.job, store, path)
    elsewhere = ArtStore(tmp_path / "elsewhere")
    again = open_job(path, elsewhere)
    assert again == job.job
    there, here = elsewhere.artwork(again.faces[0].artworks[0]), store.artwork(job.artworks[0])
    assert there is not None and here is not None
    assert np.array_equal(there.pixels, here.pixels)
    with zipfile.ZipFile(path) as archive:
        assert json.loads(archive.read("job.json"))["schema"] == SCHEMA


DATA = Path(__file__).parent / "data"


@pytest.mark.parametrize("path", sorted(DATA.glob("schema-*.farbe")), ids=lambda path: path.stem)
def test_jobs_of_each_former_schema_open(path: Path, tmp_path: Path, read_here: None) -> None:
    """Files that each former Farbe wrote; saved anew they are the same job."""
    store = ArtStore(tmp_path / "store")
    job = open_job(path, store)
    faces = [(face.reader, len(face.artworks), len(face.stack)) for face in job.faces]
    assert faces == FORMER[path.stem][0]
    assert (type(job.comes_up), type(job.medium)) == FORMER[path.stem][1:]
    save_job(job, store, tmp_path / "again.farbe")
    assert open_job(tmp_path / "again.farbe", ArtStore(tmp_path / "other")) == job
    for art in (art for face in job.faces for art in face.artworks):
        assert store.artwork(art).width > 10


FORMER = {
    "schema-1": ([(Reader.FACE, 1, 3)], type(None), Bed),
    "schema-2": ([(Reader.FACE, 2, 2), (Reader.FACE, 1, 2)], Turning, Bed),
    "schema-3": ([(Reader.FACE, 2, 2), (Reader.FACE, 1, 2)], Turning, Bed),
    "schema-6": ([(Reader.THROUGH, 1, 5), (Reader.FACE, 1, 0)], SamePrint, Bed),
    "schema-7": ([(Reader.THROUGH, 1, 5), (Reader.FACE, 1, 0)], SamePrint, Bed),
    "schema-8": ([(Reader.FACE, 2, 2), (Reader.FACE, 1, 2)], Turning, Bed),
    "schema-9": ([(Reader.FACE, 1, 2)], type(None), Bed),
    "schema-10": ([(Reader.FACE, 1, 3)], type(None), Bed),
    "schema-11": ([(Reader.FACE, 1, 3)], type(None), Bed),
    "schema-5": ([(Reader.FACE, 2, 2), (Reader.FACE, 1, 2)], Turning, Bed),
    "schema-4-film": ([(Reader.FACE, 2, 1), (Reader.FACE, 2, 1)], Turning, Roll),
    "schema-4-two-readers": ([(Reader.THROUGH, 1, 5), (Reader.FACE, 1, 0)], SamePrint, Bed),
}


def test_a_channel_name_that_two_inks_had_is_dropped(tmp_path: Path) -> None:
    """White was called Black, which black is called as well; the other name stays."""
    job = open_job(DATA / "schema-7.farbe", ArtStore(tmp_path / "store"))
    assert job.receiver.channel_names == (("Varnish", "Gloss"),)
    with pytest.raises(BadInput, match="Two inks have the channel name black"):
        job.replace(receiver=job.receiver.replace(channel_names=(("White", "Black"),)))


def test_what_only_a_view_had_is_not_loaded(tmp_path: Path) -> None:
    """Early jigs had a place for the side that was looked at; it says nothing any more."""
    with zipfile.ZipFile(DATA / "schema-3.farbe") as archive:
        document = json.loads(archive.read("job.json"))
    plain = open_job(DATA / "schema-3.farbe", ArtStore(tmp_path / "plain"))
    document["job"]["jig"]["over"] = {"turn": "sideways", "board": True}
    path = rewritten(
        DATA / "schema-3.farbe", tmp_path / "over.farbe", job=json.dumps(document).encode()
    )
    assert open_job(path, ArtStore(tmp_path / "store")) == plain


def test_a_failed_save_leaves_the_old_file(
    job: Faced, store: ArtStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "job.farbe"
    save_job(job.job, store, path)
    before = path.read_bytes()

    def full(_: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(atomic.os, "fsync", full)
    with pytest.raises(BadInput, match="disk of"):
        save_job(job.replace(name="Other").job, store, path)
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir() if p.suffix == ".part"] == []


def rewritten(path: Path, target: Path, **members: bytes | None) -> Path:
    """A job file with members replaced, added or (None) left out."""
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(target, "w") as new:
        for name in old.namelist():
            short = "job" if name == "job.json" else "file"
            data = members.get(short, old.read(name))
            if data is not None:
                new.writestr(name, data)
    return target


def test_hostile_job_files_end_in_one_sentence(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    path = tmp_path / "job.farbe"
    save_job(job.job, store, path)
    with zipfile.ZipFile(path) as archive:
        good = json.loads(archive.read("job.json"))
    evil = json.loads(
        json.dumps(good).replace(good["job"]["faces"][0]["artworks"][0]["digest"], "../../evil")
    )
    huge = json.loads(json.dumps(good))
    huge["job"]["printer"]["bed_width"] = 1e300
    cases = {
        "newer Farbe": {"job": json.dumps({"schema": 99, "job": {}}).encode()},
        "no job that can be read": {"job": b"{"},
        "cannot be": {"job": json.dumps(evil).encode()},
        "bed width": {"job": json.dumps(huge).encode()},
        "holds no job": {"job": None},
        "lacks a file": {"file": None},
        "damaged": {"file": b"other bytes"},
    }
    for number, (words, members) in enumerate(cases.items()):
        bad = rewritten(path, tmp_path / f"bad{number}.farbe", **members)
        fresh = ArtStore(tmp_path / f"store{number}")
        with pytest.raises(BadInput, match=words) as told:
            open_job(bad, fresh)
        assert "\n" not in str(told.value)
    whole = path.read_bytes()
    for cut in (0, 10, len(whole) // 2, len(whole) - 5):
        (tmp_path / "cut.farbe").write_bytes(whole[:cut])
        with pytest.raises(BadInput):
            open_job(tmp_path / "cut.farbe", ArtStore(tmp_path / "cut"))
    assert not (tmp_path.parent / "evil").exists()


def test_cancelling_a_hand_off_leaves_nothing(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    folder = tmp_path / "out"

    def stop(done: float) -> None:
        if done > 0.3:
            raise Cancelled

    with pytest.raises(Cancelled):
        hand_off(job.job, store, folder, report=stop)
    assert list(folder.iterdir()) == []


def test_a_read_only_folder_is_said(
    job: Faced, store: ArtStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refused(*_: object, **__: object) -> None:
        raise PermissionError(13, "Permission denied")

    # Root may write anywhere, so the refusal is made here.
    monkeypatch.setattr(atomic.tempfile, "mkstemp", refused)
    with pytest.raises(BadInput, match="may not be written"):
        save_job(job.job, store, tmp_path / "job.farbe")


def test_a_path_through_a_file_is_said(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    with pytest.raises(BadInput):
        hand_off(job.job, store, tmp_path / "file" / "out")


def test_the_judges_are_here() -> None:
    for program in ("gs", "tiffinfo", "tiffcp"):
        assert shutil.which(program), f"{program} is missing; ./run test installs it"


def test_several_hand_offs_into_one_folder(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    (tmp_path / "note.txt").write_text("the operator's own")
    hand_off(job.job, store, tmp_path)
    other = store.add_artwork(small_art(tmp_path / "other.png", 30, 30))
    hand_off(job.replace(artworks=(other,)).job, store, tmp_path)
    names = sorted(p.name for p in tmp_path.iterdir() if p.suffix != ".png" and p.is_file())
    assert names == [
        "artwork.pdf", "artwork.tif", "guide.pdf", "guide.svg", "guide.tif", "note.txt",
        "ticket.json",
    ]  # fmt: skip
