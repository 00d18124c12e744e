"""Values that are made once, though several threads want them."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, Generic, Self, TypeVar, overload

Key = TypeVar("Key", bound=Hashable)
Made = TypeVar("Made")
Owner = TypeVar("Owner")


class once(Generic[Owner, Made]):
    """A property that is worked out when it is first asked for.

    Threads that ask one object wait for what one of them works out; those that ask others do not.
    ``functools.cached_property`` has one lock for all objects of a class in Python 3.11, which
    lets strips be made one after the other, and none in later ones, which lets them be made twice.

    Parameters
    ----------
    make : works the value out of the object
    """

    def __init__(self, make: Callable[[Owner], Made]) -> None:
        self._make, self._name, self._lock = make, "", ""
        self.__doc__ = make.__doc__

    def __set_name__(self, owner: type[Any], name: str) -> None:
        self._name, self._lock = name, f"{name} is made"

    @overload
    def __get__(self, instance: None, owner: type[Any]) -> Self: ...
    @overload
    def __get__(self, instance: Owner, owner: type[Any]) -> Made: ...
    def __get__(self, instance: Owner | None, owner: type[Any]) -> Self | Made:
        if instance is None:
            return self
        # Once it is there, Python finds it in the object, and does not ask here.
        own: dict[str, Any] = vars(instance)
        with own.setdefault(self._lock, threading.Lock()):
            if self._name not in own:
                own[self._name] = self._make(instance)
        own.pop(self._lock, None)
        made: Made = own[self._name]
        return made


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
    gone : is told of values that are let go for others; nobody else waits for it
    """

    def __init__(
        self,
        count: int,
        *,
        most: int | None = None,
        weigh: Callable[[Made], int] = lambda _: 0,
        gone: Callable[[Key, Made], object] | None = None,
    ) -> None:
        self._count, self._most, self._weigh, self._gone = count, most, weigh, gone
        self._lock = threading.Lock()
        self._places: OrderedDict[Key, _Place[Made]] = OrderedDict()
        self._all = 0

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
            gone = []
            while len(self._places) > self._count:
                gone.append(self._let_go())
        with place.lock:
            if not place.made:
                place.made.append(make())
                gone += self._lay_on(key, place, self._weigh(place.made[0]))
            made = place.made[0]
        if self._gone is not None:
            for other, left in gone:
                for value in left.made:
                    self._gone(other, value)
        return made

    def known(self, key: Key) -> Made | None:
        """The value of a key, if it is there; nothing waits.

        Parameters
        ----------
        key : hashable
        """
        with self._lock:
            place = self._places.get(key)
            return place.made[0] if place is not None and place.made else None

    def latest(self) -> list[tuple[Key, Made]]:
        """All that are there with their keys, the one that was used last first; nothing waits."""
        with self._lock:
            return [
                (key, place.made[0]) for key, place in reversed(self._places.items()) if place.made
            ]

    def __contains__(self, key: Key) -> bool:
        """Whether a value of this key is there; nothing waits."""
        with self._lock:
            place = self._places.get(key)
            return place is not None and bool(place.made)

    def _lay_on(self, key: Key, place: _Place[Made], weight: int) -> list[tuple[Key, _Place[Made]]]:
        """Count the weight of a new value, and let the oldest go while all weigh too much."""
        gone = []
        with self._lock:
            if self._places.get(key) is not place:
                # It went while it was made.
                return []
            place.weight = weight
            self._all += weight
            while self._most is not None and self._all > self._most and len(self._places) > 1:
                gone.append(self._let_go())
        return gone

    def _let_go(self) -> tuple[Key, _Place[Made]]:
        key, gone = self._places.popitem(last=False)
        self._all -= gone.weight
        return key, gone

    @property
    def weight(self) -> int:
        """Bytes that are kept."""
        with self._lock:
            return self._all
