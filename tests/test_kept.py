"""What several threads want is made once, and goes away with whoever wanted it."""

from __future__ import annotations

import gc
import threading
import time
import weakref
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from conftest import artwork_of, small_art
from farbe.art.artwork import CHANNELS, Artwork, Space
from farbe.art.packed import packed
from farbe.art.profiles import shipped_profile, srgb_profile
from farbe.files import store as stores
from farbe.files.store import ArtStore, weight_of
from farbe.kept import Kept, once
from farbe.model.job import Intent
from farbe.separate import tones
from farbe.separate.colour import converter_for, undated
from farbe.separate.outline import covered, rasterise
from farbe.separate.place import PlacedArtwork
from farbe.separate.tones import nearness_table


def test_threads_that_want_one_value_wait_for_it() -> None:
    kept: Kept[int, object] = Kept(4)
    made: list[int] = []
    together = threading.Barrier(8)

    def make(key: int) -> object:
        made.append(key)
        time.sleep(0.02)
        return object()

    def want(number: int) -> object:
        together.wait(30)
        return kept.get(number % 2, lambda: make(number % 2))

    with ThreadPoolExecutor(8) as pool:
        found = list(pool.map(want, range(8)))
    assert sorted(made) == [0, 1] and len({id(one) for one in found}) == 2


def test_what_objects_work_out_is_made_once_and_objects_do_not_wait_for_each_other() -> None:
    class Strip:
        def __init__(self) -> None:
            self.made = 0

        @once
        def plates(self) -> object:
            """Both strips are at it at the same time, or this breaks."""
            self.made += 1
            meeting.wait(30)
            return object()

        @once
        def broken(self) -> object:
            self.made += 1
            if self.made < 2:
                raise ValueError("not yet")
            return object()

    meeting, together = threading.Barrier(2), threading.Barrier(8)
    strips = Strip(), Strip()

    def want(number: int) -> object:
        together.wait(30)
        return strips[number % 2].plates

    with ThreadPoolExecutor(8) as pool:
        found = list(pool.map(want, range(8)))
    assert [strip.made for strip in strips] == [1, 1] and len({id(one) for one in found}) == 2
    assert strips[0].plates is found[0] and set(vars(strips[0])) == {"made", "plates"}
    failing = Strip()
    with pytest.raises(ValueError, match="not yet"):
        failing.broken  # noqa: B018 - it is worked out
    assert failing.broken is failing.broken and failing.made == 2
    assert Strip.plates.__doc__ == "Both strips are at it at the same time, or this breaks."


def test_the_latest_stay_and_what_failed_is_tried_again() -> None:
    kept: Kept[str, str] = Kept(2)
    for key in "aba":
        assert kept.get(key, lambda: key) == key  # noqa: B023 - made at once
    kept.get("c", lambda: "c")
    # Of a, b and c the least lately used is gone.
    assert kept.get("a", lambda: "anew") == "a" and kept.get("b", lambda: "anew") == "anew"
    with pytest.raises(ValueError, match="no"):
        kept.get("d", lambda: (_ for _ in ()).throw(ValueError("no")))
    assert kept.get("d", lambda: "yes") == "yes"


def test_artwork_is_let_go_without_waiting_for_the_collector() -> None:
    """A bed of many artworks must not hold those that are done."""
    art = artwork_of(np.full((300, 200), 255, np.uint8))
    turned = np.array([[1.0, 0.1, 0.0], [-0.1, 1.0, 0.0]])
    placed = PlacedArtwork(art, (200, 300), (1, 1), matrix=turned)
    placed.colours(0, 300)
    gone = weakref.ref(placed)
    gc.disable()
    try:
        del placed
        assert gone() is None
    finally:
        gc.enable()


def test_profiles_that_differ_in_their_date_share_a_converter() -> None:
    art = artwork_of(np.full((2, 2), 255, np.uint8))
    icc = srgb_profile()
    later = icc[:24] + bytes([7, 234, 0, 1, 0, 2, 0, 3, 0, 4, 0, 5]) + icc[36:]
    assert later != icc and undated(later) == undated(icc)
    one, other = (
        converter_for(
            replace(art, icc=of), shipped_profile(), intent=Intent.RELATIVE, black_point=True
        )
        for of in (icc, later)
    )
    assert one is other


def test_covers_of_one_outline_are_shared_and_of_another_are_not() -> None:
    square = np.array([(2, 2), (9, 2), (9, 9), (2, 9)], float)
    one, other = (square,), (square + 1,)
    first, again = covered(one, 20, 0, 12), covered((square.copy(),), 20, 3, 9)
    assert np.shares_memory(first, again) and np.array_equal(first[3:9], again)
    for start, stop in ((0, 12), (-5, 3), (250, 270), (4, 4)):
        moved = (other[0] + (0, max(0, start)),)
        assert np.array_equal(covered(moved, 20, start, stop), rasterise(moved, 20, start, stop))
    assert not np.array_equal(covered(one, 20, 0, 12), covered(other, 20, 0, 12))


def test_what_is_kept_is_bounded_by_bytes() -> None:
    """The oldest go first; the last one stays, however heavy; what is used again is not old."""
    kept: Kept[int, bytes] = Kept(100, most=100, weigh=len)
    for key in range(12):
        kept.get(key, lambda: bytes(30))
        kept.get(0, lambda: bytes(30))
    assert kept.weight <= 100
    made: list[int] = []
    for key in (0, 11, 5):
        kept.get(key, lambda key=key: made.append(key) or bytes(30))  # type: ignore[misc]
    assert made == [5]
    assert len(kept.get(99, lambda: bytes(500))) == 500 and kept.weight == 500
    # What goes while it is made weighs nothing.
    few: Kept[int, bytes] = Kept(1, most=100, weigh=len)
    few.get(1, lambda: few.get(2, lambda: bytes(40)) + bytes(10))
    assert few.weight == 40 and 2 in few and 1 not in few


def test_what_goes_for_others_is_told_once() -> None:
    """Whoever is told may look at what is kept; threads that ask meanwhile do not wait."""
    told: list[tuple[int, str]] = []
    alone = True

    def gone(key: int, value: str) -> None:
        # Another thread may have made it anew since.
        assert kept.known(key) is None or not alone
        told.append((key, value))

    kept: Kept[int, str] = Kept(3, most=10, weigh=len, gone=gone)
    for key in range(5):
        kept.get(key, lambda key=key: f"{key}" * 2)  # type: ignore[misc]
    assert told == [(0, "00"), (1, "11")] and kept.known(4) == "44"
    kept.get(5, lambda: "x" * 9)
    assert told[2:] == [(2, "22"), (3, "33"), (4, "44")] and kept.known(5) == "x" * 9
    with pytest.raises(ValueError, match="no"):
        kept.get(6, lambda: (_ for _ in ()).throw(ValueError("no")))
    assert kept.known(6) is None and 6 not in kept
    kept.get(7, lambda: "7" * 9)
    assert told[5:] == [(5, "x" * 9)]
    kept.get(8, lambda: "08")
    assert told.pop() == (7, "7" * 9)
    alone = False
    with ThreadPoolExecutor(8) as pool:
        list(pool.map(lambda key: kept.get(key % 40, lambda: f"{key % 40:02}"), range(400)))
    assert len(told) > 40 and all(value == f"{key:02}" for key, value in told[6:])


@settings(max_examples=40)
@given(
    space=st.sampled_from(Space), alpha=st.booleans(), wide=st.integers(20, 90),
    high=st.integers(20, 90), level=st.integers(0, 255), seed=st.integers(0, 99),
)  # fmt: skip
def test_drawn_artwork_is_packed_without_loss(
    space: Space, alpha: bool, wide: int, high: int, level: int, seed: int
) -> None:
    """All that is known of it comes back; a photograph is not worth it, nor what is in a file."""
    channels = CHANNELS[space] + alpha
    pixels = np.full((high, wide, channels), level, np.uint8)
    pixels[high // 3 :, wide // 4 :] = 255 - level
    art = Artwork(pixels, space, (150.0, 210.0), srgb_profile(), remark="as it came", pages=3)
    small = packed(art)
    assert small is not None and small.weight < 0.3 * pixels.nbytes
    pixels[:] = 7  # it holds none of them
    back = small.unpacked()
    pixels[:] = level
    pixels[high // 3 :, wide // 4 :] = 255 - level
    assert np.array_equal(back.pixels, pixels) and not back.pixels.flags.writeable
    assert replace(back, pixels=art.pixels) == art
    noise = np.random.default_rng(seed).integers(0, 256, pixels.shape).astype(np.uint8)
    assert packed(replace(art, pixels=noise)) is None
    assert packed(replace(art, plates={"matt": pixels[..., 0]})) is None
    assert packed(replace(art, looked_at=lambda _: None)) is None


def test_artwork_that_was_let_go_is_not_read_again(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    store = ArtStore(tmp_path / "store")
    store._read_kept = Kept(2, gone=partial(stores._put_by, store._packed))
    store._edited = Kept(2)
    for number in range(6):
        drawn = Image.new("RGBA", (300, 200 + number), (30 * number, 80, 60, 255))
        drawn.paste((0, 0, 0, 0), (20, 20, 90, 150))
        drawn.save(tmp_path / f"{number}.png")
    files = [store.add_artwork(tmp_path / f"{number}.png") for number in range(6)]
    first = [store.artwork(file).pixels.copy() for file in files]

    def refused(*_: object, **__: object) -> None:
        raise AssertionError("read again")

    monkeypatch.setattr(stores, "read_artwork", refused)
    for file, pixels in zip(files, first, strict=True):
        assert np.array_equal(store.artwork(file).pixels, pixels)


@pytest.mark.long
def test_artworks_and_tables_are_bounded_by_bytes(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Thirty artworks, and tables of nine settings, take no more than is stated."""
    store = ArtStore(tmp_path / "store")
    store._read_kept = Kept(500, most=100_000, weigh=weight_of)
    files = [store.add_artwork(small_art(tmp_path / f"{i}.png", 60 + i)) for i in range(30)]
    for file in files:
        assert store.artwork(file).width == round(file.width / 25.4 * 150)
    assert store._read_kept.weight <= 100_000
    for step in range(9):
        nearness_table(("#102030",), 5.0 + step, 2.0)
    assert tones._NEAR.weight <= 2 * tones.PerColour.BYTES
