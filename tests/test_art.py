"""Customers' files as they come, whole and broken."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path
from threading import Barrier
from typing import Any

import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms

from farbe.art.artwork import Artwork, Space
from farbe.art.pictureparse import warm_up
from farbe.art.pictureread import picture_here
from farbe.art.pictures import MAX_PIXELS
from farbe.art.profiles import shipped_profile, srgb_profile
from farbe.art.read import read_artwork
from farbe.checks.check import Check, Facts
from farbe.checks.rules import run_checks
from farbe.files.store import ArtStore
from farbe.follows.pictures import pictures_of
from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.plan.newjob import job_from_recipe
from farbe.plan.recipes import recipe
from farbe.render.raster import Cancelled, unwatched

RGB = np.random.default_rng(3).integers(0, 256, (9, 13, 3), dtype=np.uint8)
ALPHA = np.random.default_rng(4).integers(0, 256, (9, 13), dtype=np.uint8)


def test_png_with_alpha_resolution_and_profile(tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    Image.fromarray(np.dstack([RGB, ALPHA])).save(path, dpi=(300, 600), icc_profile=srgb_profile())
    art = read_artwork(path)
    assert np.array_equal(art.pixels, np.dstack([RGB, ALPHA]))
    assert art.space is Space.RGB and art.has_alpha
    assert art.dpi == pytest.approx((300, 600), rel=1e-3)
    assert art.icc == srgb_profile() and not art.unfit_profile
    assert art.size_mm() == pytest.approx((13 / 300 * 25.4, 9 / 600 * 25.4), rel=1e-3)


def test_jpeg_grey_and_cmyk(tmp_path: Path) -> None:
    flat = np.full((8, 8, 3), (180, 90, 40), np.uint8)
    Image.fromarray(flat).save(tmp_path / "a.jpg", quality=100)
    assert np.abs(read_artwork(tmp_path / "a.jpg").pixels.astype(int) - flat).max() <= 3
    Image.fromarray(flat[..., 0]).save(tmp_path / "g.jpg", quality=100)
    assert read_artwork(tmp_path / "g.jpg").space is Space.GREY
    cmyk = Image.new("CMYK", (8, 8), (10, 200, 30, 60))
    cmyk.save(tmp_path / "c.jpg", quality=100, icc_profile=shipped_profile())
    art = read_artwork(tmp_path / "c.jpg")
    assert art.space is Space.CMYK and art.icc == shipped_profile()
    assert np.abs(art.pixels[0, 0].astype(int) - (10, 200, 30, 60)).max() <= 4


def test_palette_and_sixteen_bit_png(tmp_path: Path) -> None:
    palette = Image.fromarray(RGB).quantize(8)
    palette.save(tmp_path / "p.png", transparency=0)
    art = read_artwork(tmp_path / "p.png")
    assert art.has_alpha and art.pixels[..., 3].min() == 0
    grey = (np.arange(64, dtype=np.uint16) * 1040).reshape(8, 8)
    Image.fromarray(grey).save(tmp_path / "g.png")
    found = read_artwork(tmp_path / "g.png").pixels[..., 0]
    assert np.abs(found - grey / 257).max() <= 0.5


@pytest.mark.parametrize("planar", ["CONTIG", "SEPARATE"])
def test_tiff_kinds(tmp_path: Path, planar: str) -> None:
    path = tmp_path / "a.tif"
    rgba = np.dstack([RGB, ALPHA])
    data = rgba if planar == "CONTIG" else np.moveaxis(rgba, -1, 0)
    tifffile.imwrite(
        path, data, photometric="rgb", extrasamples=["unassalpha"], planarconfig=planar,
        resolution=(200, 200), resolutionunit="INCH",
    )  # fmt: skip
    art = read_artwork(path)
    assert np.array_equal(art.pixels, rgba)
    assert art.dpi == pytest.approx((200, 200))


def test_tiff_premultiplied_sixteen_bit_and_cmyk(tmp_path: Path) -> None:
    alpha = np.maximum(ALPHA, 128)
    premultiplied = np.rint(RGB * (alpha[..., None] / 255.0)).astype(np.uint16) * 257
    data = np.dstack([premultiplied, alpha.astype(np.uint16) * 257])
    tifffile.imwrite(tmp_path / "p.tif", data, photometric="rgb", extrasamples=["assocalpha"])
    art = read_artwork(tmp_path / "p.tif")
    assert np.array_equal(art.pixels[..., 3], alpha)
    assert np.abs(art.pixels[..., :3].astype(int) - RGB).max() <= 1
    inks = np.random.default_rng(5).integers(0, 256, (9, 13, 4), dtype=np.uint8)
    tifffile.imwrite(tmp_path / "c.tif", inks, photometric="separated", compression="lzw")
    cmyk = read_artwork(tmp_path / "c.tif")
    assert cmyk.space is Space.CMYK and np.array_equal(cmyk.pixels, inks)


def test_a_profile_of_another_colour_space_is_not_used(tmp_path: Path) -> None:
    grey = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB")).tobytes()
    Image.fromarray(RGB).save(tmp_path / "a.png", icc_profile=grey)
    art = read_artwork(tmp_path / "a.png")
    assert art.icc is None and art.unfit_profile


def png_of_size(width: int, height: int) -> bytes:
    """A small file that says it is large."""
    import struct
    import zlib

    def chunk(kind: bytes, data: bytes) -> bytes:
        body = kind + data
        return struct.pack(">I", len(data)) + body + struct.pack(">I", zlib.crc32(body))

    header = struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)
    parts = (
        chunk(b"IHDR", header),
        chunk(b"IDAT", zlib.compress(b"\0" * 1000)),
        chunk(b"IEND", b""),
    )
    return b"\x89PNG\r\n\x1a\n" + b"".join(parts)


def test_what_cannot_be_read_is_said_in_one_sentence(tmp_path: Path) -> None:
    cases = {
        "is not there": tmp_path / "none.png",
        "is a folder": tmp_path,
        "no picture": tmp_path / "text.png",
        "million": tmp_path / "bomb.png",
    }
    cases["no picture"].write_text("hello")
    cases["million"].write_bytes(png_of_size(60_000, MAX_PIXELS // 60_000 + 9))
    for words, path in cases.items():
        with pytest.raises(BadInput, match=words) as told:
            read_artwork(path)
        assert "\n" not in str(told.value)


def test_an_artwork_is_read_once(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """What was read when the file was taken is what the job prints."""
    path, reads = tmp_path / "one.png", []
    Image.new("RGB", (5, 4), (10, 200, 30)).save(path)

    def counted(*args: object, **more: object) -> object:
        reads.append(args)
        return read_artwork(*args, **more)  # type: ignore[arg-type]

    monkeypatch.setattr("farbe.files.store.read_artwork", counted)
    store = ArtStore(tmp_path / "store")
    file = store.add_artwork(path)
    assert store.artwork(file.replace(quantity=3)) is store.artwork(file.replace(width=9))
    assert len(reads) == 1


def _given_up() -> None:
    raise Cancelled


@pytest.mark.long
def test_many_small_files_are_read_side_by_side(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What cannot be read is said when it is asked for, and large files wait until then."""
    added, files = ArtStore(tmp_path / "store"), []
    for number in range(20):
        picture = Image.new("RGBA", (40, 30), (12 * number, 90, 20, 255))
        picture.save(tmp_path / f"{number}.png")
        files.append(added.add_artwork(tmp_path / f"{number}.png").replace(quantity=1))
    added.path(files[3].digest).write_bytes(b"\x89PNG and nothing that follows from it")
    with added.path(files[4].digest).open("ab") as large:
        large.truncate(10_000_001)
    store, reads, read = ArtStore(tmp_path / "store"), list[str](), read_artwork
    both, first = Barrier(2, timeout=60), iter(range(2))

    def counted(path: Path, *more: Any, **named: Any) -> Artwork:
        reads.append(path.name)
        if next(first, None) is not None:
            both.wait()
        return read(path, *more, **named)

    monkeypatch.setattr("farbe.files.store.read_artwork", counted)
    asked = tuple(files)
    with pytest.raises(Cancelled):
        store.read_ahead(asked, go_on=_given_up)
    # Those that were begun are ended, and no others are.
    assert 2 <= len(reads) < 9
    store.read_ahead(asked)
    assert set(reads) == {one.digest for one in files if one is not files[4]}
    # None that could be read is read twice.
    assert len(reads) - reads.count(files[3].digest) == 18
    reads.clear()
    store.read_ahead(asked)
    store.read_ahead((*files[:3], *files[5:]))
    assert not reads and {store.stated(one).width for one in files[5:]} == {40}
    with pytest.raises(BadInput):
        store.stated(files[3])
    store.stated(files[4])
    assert reads == [files[3].digest, files[4].digest]


def test_pictures_are_taken_in_side_by_side_in_their_order(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Small ones, that is: a large one is read by itself, and a broken one holds up no other."""
    paths = [tmp_path / f"{number}.png" for number in range(7)]
    for number, path in enumerate(paths):
        Image.new("RGB", (20 + number, 10), (30 * number, 90, 20)).save(path)
    paths[2].write_bytes(b"\x89PNG and nothing that follows from it")
    paths[3].unlink()
    monkeypatch.setattr("farbe.files.store.is_small", lambda path: path != paths[5])
    reading, beside, both, read = list[str](), list[int](), Barrier(2, timeout=60), read_artwork
    first = iter(range(2))

    def watched(path: Path, *more: Any, **named: Any) -> Artwork:
        reading.append(path.name)
        if next(first, None) is not None:
            both.wait()
        try:
            found = read(path, *more, **named)
            beside.append(len(reading) - 1 if found.width == 25 else 0)
            return found
        finally:
            reading.remove(path.name)

    monkeypatch.setattr("farbe.files.store.read_artwork", watched)
    store = ArtStore(tmp_path / "store")
    added = list(store.add_artworks(paths))
    names = [one.file_name if not isinstance(one, BadInput) else None for one in added]
    assert names == ["0.png", "1.png", None, None, "4.png", "5.png", "6.png"]
    assert "2.png is no picture" in str(added[2]) and "3.png is not there" in str(added[3])
    assert not any(beside)
    # Who wants no more has none read but those that were begun.
    begun, seen = ArtStore(tmp_path / "another"), list[str]()
    monkeypatch.setattr(
        "farbe.files.store.read_artwork",
        lambda path, *a, **n: (seen.append(path.name), read(path, *a, **n))[1],
    )
    many = [tmp_path / f"more {number}.png" for number in range(12)]
    for number, path in enumerate(many):
        Image.new("RGB", (20, 10), (number, 90, 20)).save(path)
    with closing(begun.add_artworks(many)) as taken:
        assert next(taken).file_name == "more 0.png"
    assert 1 <= len(seen) <= 5


@pytest.mark.long
def test_edits_of_many_artworks_read_none_of_them_again(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """However many there are: checks and pictures need the pixels of those that are new."""
    store = ArtStore(tmp_path / "store")
    files = []
    for number in range(6):
        Image.new("RGBA", (40, 30), (30 * number, 90, 20, 255)).save(tmp_path / f"{number}.png")
        files.append(store.add_artwork(tmp_path / f"{number}.png").replace(quantity=1))
    # As if all of their pixels were too much to be kept.
    store._read_kept, store._edited = Kept(1), Kept(1)
    job = Faced(job_from_recipe(recipe("dark opaque piece"))).replace(artworks=tuple(files))
    reads = []
    read = read_artwork
    monkeypatch.setattr(
        "farbe.files.store.read_artwork", lambda *a, **m: (reads.append(a), read(*a, **m))[1]
    )

    def looked_at(job: Faced) -> tuple[Check, ...]:
        found = run_checks(Facts(job, store))
        pictures = pictures_of(job, store, unwatched)
        assert set(pictures.widths.values()) == {40} and len(pictures.thumbs) == len(job.artworks)
        return found

    found = looked_at(job)
    assert reads
    reads.clear()
    assert len(looked_at(job.replace(jig=job.jig.replace(gap_x=job.jig.gap_x + 1)))) == len(found)
    assert reads == []
    looked_at(job.replace(artworks=(files[0].replace(width=5.0), *files[1:])))
    assert {path.name for path, *_ in reads} == {files[0].digest}


def test_getting_ready_to_read_leaves_nothing_behind(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Where there is no room for it, pictures are read all the same."""
    read = list[str]()

    def noted(path: Path, *more: Any, **named: Any) -> Artwork:
        read.append(path.name)
        return picture_here(path, *more, **named)

    monkeypatch.setattr("farbe.art.pictureparse.picture_here", noted)
    for folder, wanted in ((tmp_path, ["PNG", "JPEG", "TIFF"]), (tmp_path / "gone", [])):
        monkeypatch.setattr("tempfile.tempdir", str(folder))
        warm_up()
        assert read == wanted and not list(tmp_path.iterdir())
        read.clear()
