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
        self.weight = 0


class Kept(Generic[Key, Made]):
    """The values that were used last, each made once: a thread waits for one that another makes.

    How a value is made is told each time, so that nothing here holds on to its owner.

    Parameters
    ----------
    count : how many are kept at the most
    most : bytes that are kept at the most, as ``weigh`` tells of each; the last one always is
    """

    def __init__(
        self,
        count: int,
        *,
        most: int | None = None,
        weigh: Callable[[Made], int] = lambda _: 0,
    ) -> None:
        self._count, self._most, self._weigh = count, most, weigh
        self._lock = threading.Lock()
        self._places: OrderedDict[Key, _Place[Made]] = OrderedDict()

    def get(self, key: Key, make: Callable[[], Made]) -> Made:
        """The value of a key; what ``make`` raises, it raises, and the next asks again.

        Parameters
        ----------
        key : hashable
        make : works the value out
        """
        with self._lock:
            place = self._places.setdefault(key, _Place())
            self._places.move_to_end(key)
            while len(self._places) > self._count:
                self._places.popitem(last=False)
        with place.lock:
            if not place.made:
                place.made.append(make())
                place.weight = self._weigh(place.made[0])
                self._lighten()
            return place.made[0]

    def __contains__(self, key: Key) -> bool:
        """Whether a value of this key is there; nothing waits."""
        with self._lock:
            place = self._places.get(key)
            return place is not None and bool(place.made)

    def _lighten(self) -> None:
        """Let the oldest values go while all of them weigh too much."""
        if self._most is None:
            return
        with self._lock:
            weight = sum(place.weight for place in self._places.values())
            while weight > self._most and len(self._places) > 1:
                _, gone = self._places.popitem(last=False)
                weight -= gone.weight

    @property
    def weight(self) -> int:
        """Bytes that are kept."""
        with self._lock:
            return sum(place.weight for place in self._places.values())
