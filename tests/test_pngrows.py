"""A PNG read by rows against the same PNG read whole by another decoder."""

from __future__ import annotations

import gc
import io
import os
import signal
import struct
import tempfile
import threading
import zlib
from pathlib import Path

import numpy as np
import pytest
import tifffile
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, PngImagePlugin

from conftest import small_art
from farbe.art import pngrows, rowsapart
from farbe.art.artwork import Artwork, Pixels
from farbe.art.pngdecode import BLOCK, PNG_DAMAGE, decoded
from farbe.art.pngrows import PngRows
from farbe.art.read import read_artwork
from farbe.art.rowsapart import blocks_apart
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.edit import Clear
from farbe.model.placing import Fit
from farbe.plan.newjob import job_for
from farbe.plan.recipes import recipe
from farbe.render.piece import piece_separation
from farbe.separate.edit import trim_of
from farbe.separate.grid import Grid
from farbe.single import PlatesWanted, separate_file


def picture(height: int, width: int, mode: str, seed: int = 1) -> Image.Image:
    """Half noise, half flat, so that every row filter is used."""
    rng = np.random.default_rng(seed)
    smooth = np.add.outer(np.arange(height) * 3, np.arange(width) * 2)[..., None]
    levels = smooth + rng.integers(0, 40, (height, width, len(mode))) * (smooth % 64 > 30)
    return Image.fromarray(levels.astype(np.uint8), mode)


@settings(max_examples=15)
@given(
    st.integers(1, 1500),
    st.integers(1, 60),
    st.sampled_from(["RGB", "RGBA"]),
    st.lists(st.tuples(st.floats(0, 1), st.integers(1, 300)), min_size=1, max_size=12),
)
def test_any_rows_in_any_order_are_those_of_the_picture(
    tmp_path: Path, height: int, width: int, mode: str, asked: list[tuple[float, int]]
) -> None:
    made = picture(height, width, mode)
    made.save(tmp_path / "a.png")
    rows = PngRows(tmp_path / "a.png", (height, width, len(mode)))
    whole = np.asarray(made)
    for at, count in asked:
        start = int(at * (height - 1))
        stop = min(height, start + count)
        # Whichever is asked for first, and the last channel as often as layers want it.
        for _ in range(2):
            last = rows.alphas(start, stop)
            assert np.array_equal(np.concatenate(last), whole[start:stop, :, -1])
            assert np.array_equal(rows.rows(start, stop), whole[start:stop])


def filtered(pixels: Pixels, filters: list[int]) -> bytes:
    """A PNG whose rows go through these filters, one after the other (PNG specification, 9.2)."""
    height, width, channels = pixels.shape
    here = pixels.astype(int)
    above = np.concatenate([np.zeros_like(here[:1]), here[:-1]])
    left, over = (np.pad(rows, ((0, 0), (1, 0), (0, 0)))[:, :-1] for rows in (here, above))
    slope = left + above - over
    far = [abs(slope - one) for one in (left, above, over)]
    nearest = np.where(
        (far[0] <= far[1]) & (far[0] <= far[2]), left, np.where(far[1] <= far[2], above, over)
    )
    guesses = [np.zeros_like(here), left, above, (left + above) // 2, nearest]
    lines = b"".join(
        bytes([kind]) + (here - guesses[kind % 5])[row].astype(np.uint8).tobytes()
        for row, kind in enumerate(filters)
    )
    head = struct.pack(">IIBBBBB", width, height, 8, 6 if channels == 4 else 2, 0, 0, 0)
    chunks = ((b"IHDR", head), (b"IDAT", zlib.compress(lines, 1)), (b"IEND", b""))
    return b"\x89PNG\r\n\x1a\n" + b"".join(
        struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        for kind, data in chunks
    )


@pytest.mark.long
@given(
    st.integers(1, 200), st.floats(0.1, 1.0), st.integers(1, 70), st.sampled_from([3, 4]),
    st.integers(0, 2**32 - 1),
)  # fmt: skip
def test_rows_behind_any_filters_are_those_that_another_decoder_finds(
    tmp_path: Path, height: int, change: float, width: int, channels: int, seed: int
) -> None:
    rng = np.random.default_rng(seed)
    pixels = rng.integers(0, 256, (height, width, channels), np.uint8)
    # How often another filter follows, or none: runs of one row, and of several blocks.
    runs = np.cumsum(rng.random(height) < change)
    filters = rng.integers(0, 5, height + 1)[runs].tolist()
    data = filtered(pixels, filters)
    with Image.open(io.BytesIO(data)) as read:
        assert np.array_equal(np.asarray(read), pixels), "the test's own filters"
    path = tmp_path / "filtered.png"
    path.write_bytes(data)
    # Blocks come one after the other in the same memory, as in the process that decodes.
    room, found = np.empty((BLOCK, width, channels), np.uint8), []
    for block in decoded(path, pixels.shape, lambda rows: room[:rows]):
        found.append(block.copy())
        room[...] = 77
    assert np.array_equal(np.concatenate(found), pixels)
    # A filter that there is none of is damage, wherever it stands.
    at = seed % len(filters)
    path.write_bytes(filtered(pixels, [*filters[:at], 5 + seed % 251, *filters[at + 1 :]]))
    with pytest.raises(PNG_DAMAGE):
        for _ in decoded(path, pixels.shape):
            pass


def test_threads_that_go_down_side_by_side_read_it_once(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = picture(3000, 40, "RGBA")
    made.save(tmp_path / "a.png")
    begun = []
    decoded = pngrows.decoded
    monkeypatch.setattr(pngrows, "decoded", lambda *which: [begun.append(1), decoded(*which)][1])
    rows, whole, wrong = PngRows(tmp_path / "a.png", (3000, 40, 4)), np.asarray(made), []
    turn = threading.Barrier(2)

    def go_down(first: int) -> None:
        for top in range(first, 2900, 128):
            turn.wait(30)
            if not np.array_equal(
                rows.rows(max(0, top - 9), top + 73), whole[max(0, top - 9) : top + 73]
            ):
                wrong.append(top)

    threads = [threading.Thread(target=go_down, args=(first,)) for first in (0, 64)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert not wrong and len(begun) == 1


def damaged(data: bytes) -> dict[str, bytes]:
    middle = len(data) // 2
    return {
        "cut short": data[:middle],
        "a flipped bit": data[:middle] + bytes([data[middle] ^ 4]) + data[middle + 1 :],
        "no pixels": data[: data.index(b"IDAT") - 4],
    }


@pytest.mark.long
@pytest.mark.parametrize("how", ["cut short", "a flipped bit", "no pixels", "too few rows"])
def test_damage_is_said_in_one_sentence_and_leaves_no_file(
    tmp_path: Path, how: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("farbe.art.pnghead.LARGE", 1000)
    source, target = tmp_path / "sheet.png", tmp_path / "sheet.tif"
    file = io.BytesIO()
    picture(700, 90, "RGBA").save(file, "PNG")
    data = file.getvalue()
    if how == "too few rows":
        # The header claims more rows than there are; its check sum is right.
        short = PngImagePlugin._crc32(
            b"IHDR" + data[16:20] + (900).to_bytes(4, "big") + data[24:29]
        )
        data = (
            data[:20]
            + (900).to_bytes(4, "big")
            + data[24:29]
            + short.to_bytes(4, "big")
            + data[33:]
        )
    else:
        data = damaged(data)[how]
    source.write_bytes(data)
    with pytest.raises(BadInput, match=r"sheet\.png is (damaged|no picture)"):
        list(
            separate_file(
                source, target, PlatesWanted.parsed(reader="transfer", compression="none")
            )
        )
    assert not target.exists() and [p.name for p in tmp_path.iterdir()] == ["sheet.png"]


@pytest.mark.long
def test_a_sheet_left_in_its_file_gives_the_same_plates(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    picture(900, 300, "RGBA").save(tmp_path / "sheet.png", dpi=(300, 300))
    found = []
    for name, large in (("whole", 10**9), ("by rows", 1000)):
        monkeypatch.setattr("farbe.art.pnghead.LARGE", large)
        art = read_artwork(tmp_path / "sheet.png", by_rows=True)
        assert (art.stream is None) == (name == "whole")
        # Printed as it is, and at other sizes.
        for width, dpi in ((None, "300"), (None, "300x150"), (20.0, "300x150"), (40.0, "300x150")):
            target = tmp_path / f"{name}{width}{dpi}.tif"
            wanted = PlatesWanted.parsed(reader="transfer", choke=0.3, width=width, dpi=dpi)
            list(separate_file(tmp_path / "sheet.png", target, wanted))
            found.append(target.read_bytes())
    assert found[:4] == found[4:]


@pytest.mark.usefixtures("pictures_here")
def test_very_large_pictures_are_mapped_and_printed_alike(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Unpacked once, with a small copy for the screen; plates and thumbs as from memory."""
    source = tmp_path / "sheet.png"
    small_art(source, 700, 500)

    def plates(name: str) -> tuple[list[np.ndarray], Artwork, Faced]:
        store = ArtStore(tmp_path / name)
        job = Faced(job_for([store.add_artwork(source)], recipe("dark opaque piece")))
        job = job.replace(placing=job.placing.replace(mirror=True, rotation=90, fit=Fit.FIT))
        made = piece_separation(job, store, Grid(200, 200))
        return made.plates(0, made.size[1]), store.artwork(job.artworks[0], job), job

    held, whole, _ = plates("held")
    monkeypatch.setattr("farbe.art.pictureread.UNPACKED", 1000)
    monkeypatch.setattr("farbe.art.unpacked.SMALL", 350 * 250)
    monkeypatch.setattr("farbe.art.unpacked.HELD", 100_000)
    mapped, art, job = plates("mapped")
    assert art.looked_at is not None and np.array_equal(art.pixels, whole.pixels)
    assert all(np.array_equal(a, b) for a, b in zip(held, mapped, strict=True))
    assert art.small is not None and art.small.shape[:2] == (250, 350)
    coarse = piece_separation(job, ArtStore(tmp_path / "mapped"), Grid(20, 20))
    assert coarse.placed.artwork.small is None and coarse.placed.artwork.width <= 350
    mean = whole.pixels[..., 3].mean()
    assert art.small[..., 3].mean() == pytest.approx(mean, rel=0.01)
    crop = trim_of(art, job.artworks[0])
    plain = trim_of(whole, job.artworks[0])
    assert crop is not None and plain is not None
    assert crop.left == pytest.approx(plain.left, abs=0.5)
    clear = job.artworks[0].replace(edits=(Clear(),))
    with pytest.raises(BadInput, match="too many to be corrected"):
        ArtStore(tmp_path / "mapped").artwork(clear)


@pytest.mark.usefixtures("pictures_here")
@pytest.mark.parametrize("how", ["strips", "tiles", "cmyk", "grey"])
def test_very_large_tiffs_are_mapped(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, how: str
) -> None:
    rng = np.random.default_rng(3)
    channels = {"cmyk": 4, "grey": 1}.get(how, 4)
    pixels = rng.integers(0, 255, (150, 203, channels), np.uint8)
    more: dict[str, object] = {"photometric": "rgb", "extrasamples": ["unassalpha"]}
    if how == "cmyk":
        more = {"photometric": "separated"}
    elif how == "grey":
        more, pixels = {"photometric": "minisblack"}, pixels[..., 0]
    more |= {"tile": (64, 48)} if how == "tiles" else {"rowsperstrip": 13}
    path = tmp_path / "sheet.tif"
    tifffile.imwrite(path, pixels, compression="deflate", resolution=(300, 300), **more)  # type: ignore[arg-type]
    whole = read_artwork(path)
    monkeypatch.setattr("farbe.art.tiffread.UNPACKED", 1000)
    monkeypatch.setattr("farbe.art.unpacked.SMALL", 3000)
    found = read_artwork(path, unpack_to=tmp_path / "plain")
    assert found.looked_at is not None and found.space is whole.space and found.dpi == whole.dpi
    assert np.array_equal(found.pixels, whole.pixels) and found.has_alpha == whole.has_alpha
    assert found.small is not None and found.small.shape[2] == whole.pixels.shape[2]


def test_a_process_of_their_own_decodes_rows_and_ends_with_them(tmp_path: Path) -> None:
    made = picture(900, 50, "RGB")
    made.save(tmp_path / "a.png")
    rows = PngRows(tmp_path / "a.png", (900, 50, 3), apart=True)
    whole = np.asarray(made)
    assert np.array_equal(rows.rows(10, 300), whole[10:300])
    assert np.array_equal(rows.rows(600, 900), whole[600:])
    (tmp_path / "a.png").write_bytes(damaged((tmp_path / "a.png").read_bytes())["cut short"])
    again = PngRows(tmp_path / "a.png", (900, 50, 3), apart=True)
    with pytest.raises(BadInput, match=r"a\.png") as told:
        again.rows(0, 900)
    # The reason of the other process comes through.
    with pytest.raises(BadInput) as here:
        PngRows(tmp_path / "a.png", (900, 50, 3)).rows(0, 900)
    assert str(told.value) == str(here.value)
    del rows, again, told, here
    gc.collect()
    assert not decoders()


def decoders() -> list[str]:
    """What decodes rows for this process now."""
    children = Path(f"/proc/self/task/{os.getpid()}/children").read_text().split()
    named = [Path(f"/proc/{one}/cmdline").read_bytes() for one in children]
    return [one for one, words in zip(children, named, strict=True) if b"rowsapart" in words]


@pytest.mark.long
@given(st.lists(st.integers(0, 59), max_size=60), st.sampled_from([None, "it", "another"]))
@settings(max_examples=12)
def test_rows_that_are_looked_at_stay_as_they_are(held: list[int], warm: str | None) -> None:
    """Whether nothing was begun, or this picture, or another one that was not asked for then."""
    shape = (60 * BLOCK, 3, 4)
    with tempfile.TemporaryDirectory() as folder:
        path, other = Path(folder) / "a.png", Path(folder) / "b.png"
        made = picture(*shape[:2], "RGBA")
        made.save(path)
        picture(*shape[:2], "RGBA").rotate(180).save(other)
        if warm:
            rowsapart.begin(path if warm == "it" else other, shape)
        whole = np.asarray(made).reshape(60, BLOCK, 3, 4)
        looked_at: dict[int, Pixels] = {}
        for number, block in enumerate(blocks_apart(path, shape)):
            # More than there is room for may be held, and let go in any order.
            if number in held:
                looked_at[number] = block[5:, 1:]
            for one in list(looked_at)[: held.count(number) - 1]:
                del looked_at[one]
            assert np.array_equal(block, whole[number])
            del block
            assert all(np.array_equal(seen, whole[at, 5:, 1:]) for at, seen in looked_at.items())
        assert number == 59 and not decoders()


def test_a_decoder_that_ends_too_soon_is_said(tmp_path: Path) -> None:
    picture(900, 50, "RGB").save(tmp_path / "a.png")
    blocks = blocks_apart(tmp_path / "a.png", (900, 50, 3))
    first = next(blocks)
    os.kill(int(decoders()[0]), signal.SIGKILL)
    with pytest.raises(ValueError, match="end too soon"):
        list(blocks)
    assert not decoders() and first.any()


def test_neither_side_changes_how_much_memory_both_share() -> None:
    memory, shared = rowsapart._shared(8192)
    for size in (0, 4096, 1 << 20):
        # What is looked at would be gone, and whoever looks at it with it.
        with pytest.raises(PermissionError):
            os.ftruncate(memory, size)
    os.close(memory)
    assert len(shared) == 8192 and not any(shared[:])
