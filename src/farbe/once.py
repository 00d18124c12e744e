"""Values that are made once, though several threads want them."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

Key = TypeVar("Key", bound=Hashable)
Made = TypeVar("Made")


class _Place(Generic[Made]):
    """Room for one value, and the lock of whoever makes it."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.made: list[Made] = []


class Once(Generic[Key, Made]):
    """The values that were used last; a thread waits for one that another is making.

    How a value is made is told each time, so that nothing here holds on to its owner.

    Parameters
    ----------
    size : how many are kept
    """

    def __init__(self, size: int) -> None:
        self._size = size
        self._lock = threading.Lock()
        self._places: OrderedDict[Key, _Place[Made]] = OrderedDict()

    def get(self, key: Key, make: Callable[[], Made]) -> Made:
        """The value of a key; what ``make`` raises, it raises, and the next asks again."""
        with self._lock:
            place = self._places.setdefault(key, _Place())
            self._places.move_to_end(key)
            while len(self._places) > self._size:
                self._places.popitem(last=False)
        with place.lock:
            if not place.made:
                place.made.append(make())
            return place.made[0]
