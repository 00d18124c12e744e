"""Any raster, written in any way: other programs' readers give back what it holds."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pytest
import tifffile
from hypothesis import given, settings
from hypothesis import strategies as st

from farbe.files import tiff
from farbe.files.pdf import pdf_strips, write_pdf
from farbe.files.tiff import tiff_strips, write_tiff
from farbe.model.receiver import Compression, Inks, Screen, TiffWays
from farbe.render import raster as rasters_module
from farbe.render.raster import ChannelInfo, Overlaid, Raster, some_channels
from farbe.separate.grid import Grid

GRID = Grid(150, 210)
PROCESS = tuple(
    ChannelInfo(name, shown, "colour", at, "Colour")
    for at, (name, shown) in enumerate(
        (("Cyan", "#00a0e0"), ("Magenta", "#e00080"), ("Yellow", "#ffe000"), ("Black", "#101010"))
    )
)
SPOTS = tuple(
    ChannelInfo(name, shown, kind, -1, name)
    for name, shown, kind in (
        ("White", "#ffffff", "white"), ("Lack matt", "#d0d0d0", "varnish"),
        ("Straßenrot 7/b", "#c01020", "spot"), ("Primer (1)", "#eeeeee", "primer"),
    )
)  # fmt: skip


@dataclass(frozen=True, eq=False)
class Drawn:
    """A raster whose pixels are all there; if it ``knows`` them, it says which rows are alike."""

    pixels: np.ndarray
    channels: tuple[ChannelInfo, ...]
    knows: bool
    grid: Grid = GRID

    @property
    def size(self) -> tuple[int, int]:
        return self.pixels.shape[1], self.pixels.shape[0]

    def rows(self, start: int, stop: int) -> np.ndarray | None:
        assert 0 <= start < stop <= len(self.pixels)
        some = self.pixels[start:stop]
        return some if some.any() else None

    def row_names(self) -> np.ndarray | None:
        if not self.knows:
            return None
        flat = self.pixels.reshape(len(self.pixels), -1)
        names = np.unique(flat, axis=0, return_inverse=True)[1].reshape(-1) + 1
        return np.where(flat.any(axis=1), names, 0)


@st.composite
def rasters(draw: st.DrawFn) -> Drawn:
    """Noise, steps and nothing; rows that come again, one or many in their order."""
    spots = draw(st.lists(st.sampled_from(SPOTS), unique=True))
    channels = (*(PROCESS if draw(st.booleans()) or not spots else ()), *spots)
    width, height = draw(st.integers(1, 40)), draw(st.sampled_from([1, 64, 65, 230]))
    random = np.random.default_rng(draw(st.integers(0, 99)))
    kinds = random.integers(0, 256, (100, width, len(channels)), dtype=np.uint8)
    kinds[1:9:4] = 0
    kinds[2:9:4] = 255
    kinds[3:9:4] &= 0xF0
    kinds[4:9:4] *= random.integers(0, 2, (width, 1), dtype=np.uint8)
    if draw(st.booleans()):
        order = np.arange(height) % draw(st.sampled_from([1, 3, 70, 100]))
    else:
        chosen = draw(st.lists(st.integers(0, 15), min_size=1, max_size=12))
        order = np.repeat(chosen, -(-height // len(chosen)))[:height]
    return Drawn(kinds[order], channels, draw(st.booleans()))


def read(path: Path, count: int) -> np.ndarray:
    """What another reader finds in a TIFF, (rows, width, channels)."""
    with tifffile.TiffFile(path) as file:
        page = file.pages.first
        # TIFF 6.0, section 2: what is pointed at begins at a word.
        assert not any(at % 2 for at in page.dataoffsets)
        found = page.asarray()
        if page.planarconfig == 2:
            found = np.moveaxis(found, 0, -1)
    return found[..., None] if count == 1 else found


@settings(max_examples=80)
@given(
    rasters(), st.sampled_from(list(Compression)), st.booleans(), st.sampled_from(list(Inks)),
    st.booleans(), st.sampled_from([1, 1 << 30]), st.sampled_from([1, 500, 1 << 30]),
)  # fmt: skip
def test_any_raster_comes_back_from_its_tiff(
    drawn: Drawn,
    compression: Compression,
    inverted: bool,
    inks: Inks,
    planar: bool,
    least_strip: int,
    at_once: int,
) -> None:
    """However its rows are cut into parts, and by another process as well."""
    ways = TiffWays(inks=inks, planar=planar)

    def elsewhere(of: Raster, ranges: Sequence[tuple[int, int]], _: Any) -> Iterator[Any]:
        made = tiff_strips(of, compression=compression, inverted=inverted, ways=ways)
        yield from made(ranges)

    with pytest.MonkeyPatch.context() as patch, tempfile.TemporaryDirectory() as folder:
        patch.setattr(tiff, "LEAST_STRIP", least_strip)
        patch.setattr(rasters_module, "PART_PIXELS", at_once)
        here, there = Path(folder) / "here.tif", Path(folder) / "there.tif"
        for path, by in ((here, None), (there, elsewhere)):
            sums = write_tiff(drawn, path, compression=compression, inverted=inverted, ways=ways,
                              elsewhere=by)  # fmt: skip
            assert sums.tolist() == drawn.pixels.sum(axis=(0, 1), dtype=np.int64).tolist()
        found = read(here, len(drawn.channels))
        if compression is Compression.DEFLATE:
            # Whose packer does not always make the same bytes.
            assert np.array_equal(read(there, len(drawn.channels)), found)
        else:
            assert here.read_bytes() == there.read_bytes()
    # One ink of whoever knows no ink sets is a picture in grey, whose tag says what is dark.
    assert np.array_equal(255 - found if inverted else found, drawn.pixels)


@pytest.mark.long
@settings(max_examples=50)
@given(rasters(), st.booleans(), st.sampled_from([10.0, 30.0, 75.0]))
def test_dots_of_any_raster_cover_what_it_does(drawn: Drawn, inverted: bool, ruling: float) -> None:
    """Nothing where there is no ink, all where it is solid; more ink has no fewer dots."""
    ways = TiffWays(screen=Screen(ruling=ruling))
    more = Drawn(np.maximum(drawn.pixels, drawn.pixels // 2 + 90), drawn.channels, drawn.knows)
    found = []
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "dots.tif"
        for one in (drawn, more):
            sums = write_tiff(one, path, compression=Compression.LZW, inverted=inverted, ways=ways)
            dots = read(path, len(one.channels)).astype(bool) ^ inverted
            assert sums.tolist() == (255 * dots.sum(axis=(0, 1))).tolist()
            assert not dots[one.pixels == 0].any() and dots[one.pixels == 255].all()
            found.append(dots)
    assert (found[0] <= found[1]).all()


def plates_in(path: Path) -> dict[str, np.ndarray]:
    """What another reader finds on the page of a PDF, by the names in its colour spaces."""
    plates: dict[str, np.ndarray] = {}
    with pikepdf.open(path) as pdf:
        for image in pdf.pages[0].Resources.XObject.values():
            space = image.ColorSpace
            names = [space[1]] if space[0] == pikepdf.Name.Separation else list(space[1])
            levels = np.frombuffer(image.read_bytes(), np.uint8)
            levels = levels.reshape(int(image.Height), int(image.Width), len(names))
            plates |= {str(name)[1:]: levels[..., at] for at, name in enumerate(names)}
    return plates


@pytest.mark.long
@settings(max_examples=50)
@given(rasters())
def test_any_raster_comes_back_from_its_pdf(drawn: Drawn) -> None:
    """Plate by plate, packed here or by another process."""

    def elsewhere(of: Raster, ranges: Sequence[tuple[int, int]], _: Any) -> Iterator[Any]:
        yield from pdf_strips(of)(ranges)

    for by in (None, elsewhere):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "plates.pdf"
            sums = write_pdf(drawn, path, elsewhere=None if by is None else lambda _, by=by: by)
            plates = plates_in(path)
        assert set(plates) == {channel.name for channel in drawn.channels}
        for at, channel in enumerate(drawn.channels):
            assert np.array_equal(plates[channel.name], drawn.pixels[..., at])
        assert sums.tolist() == drawn.pixels.sum(axis=(0, 1), dtype=np.int64).tolist()


@settings(max_examples=50)
@given(rasters(), st.data())
def test_rasters_are_taken_apart_and_put_together(drawn: Drawn, data: st.DataObject) -> None:
    """Some channels of one, and two on each other, of which the more ink stays."""
    wanted = tuple(data.draw(st.lists(st.sampled_from(drawn.channels), min_size=1, unique=True)))
    places = [drawn.channels.index(channel) for channel in wanted]
    some = some_channels(drawn, wanted)
    turned = Drawn(drawn.pixels[::-1], drawn.channels, drawn.knows)
    both = Overlaid(
        ((some, tuple(range(len(wanted)))), (turned, tuple(range(len(drawn.channels))))),
        drawn.channels,
    )
    together = turned.pixels.copy()
    for at, place in enumerate(places):
        together[..., at] = np.maximum(together[..., at], drawn.pixels[..., place])
    height = len(drawn.pixels)
    start = data.draw(st.integers(0, height - 1))
    stop = data.draw(st.integers(start + 1, height))
    for one, pixels in ((some, drawn.pixels[..., places]), (both, together)):
        rows = one.rows(start, stop)
        assert np.array_equal(
            np.zeros_like(pixels[start:stop]) if rows is None else rows, pixels[start:stop]
        )
        names = one.row_names()
        if names is not None:
            # Rows of one name are alike; those of no name are empty.
            first = {int(name): at for at, name in reversed(list(enumerate(names)))}
            like = np.array([first[int(name)] for name in names])
            assert np.array_equal(pixels, pixels[like]) and not pixels[names == 0].any()
