"""What several threads want is made once, and goes away with whoever wanted it."""

from __future__ import annotations

import gc
import threading
import time
import weakref
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
import pytest

from conftest import artwork_of
from farbe.model.job import Intent
from farbe.once import Once
from farbe.separate.colour import converter_for, shipped_profile, srgb_profile, undated
from farbe.separate.outline import covered, rasterise
from farbe.separate.place import PlacedArtwork


def test_threads_that_want_one_value_wait_for_it() -> None:
    once: Once[int, object] = Once(4)
    made: list[int] = []
    together = threading.Barrier(8)

    def make(key: int) -> object:
        made.append(key)
        time.sleep(0.02)
        return object()

    def want(number: int) -> object:
        together.wait(30)
        return once.get(number % 2, lambda: make(number % 2))

    with ThreadPoolExecutor(8) as pool:
        found = list(pool.map(want, range(8)))
    assert sorted(made) == [0, 1] and len({id(one) for one in found}) == 2


def test_the_latest_stay_and_what_failed_is_tried_again() -> None:
    once: Once[str, str] = Once(2)
    for key in "aba":
        assert once.get(key, lambda: key) == key  # noqa: B023 - made at once
    once.get("c", lambda: "c")
    # Of a, b and c the least lately used is gone.
    assert once.get("a", lambda: "anew") == "a" and once.get("b", lambda: "anew") == "anew"
    with pytest.raises(ValueError, match="no"):
        once.get("d", lambda: (_ for _ in ()).throw(ValueError("no")))
    assert once.get("d", lambda: "yes") == "yes"


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
    assert covered(one, 20, 0, 12) is covered(one, 20, 0, 12)
    assert np.array_equal(covered(other, 20, 0, 12), rasterise(other, 20, 0, 12))
    assert not np.array_equal(covered(one, 20, 0, 12), covered(other, 20, 0, 12))
