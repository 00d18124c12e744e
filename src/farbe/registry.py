"""What is done for each kind of value, entered once for each and looked up by its class."""

from __future__ import annotations

from typing import Generic, TypeVar

Method = TypeVar("Method")


class Methods(Generic[Method]):
    """One method for each class of a family.

    Parameters
    ----------
    words : what a method does, for messages: "outline"
    """

    def __init__(self, words: str) -> None:
        self.words = words
        self._known: dict[type, Method] = {}

    def enter(self, kind: type, method: Method) -> None:
        """Enter the method of a class.

        Parameters
        ----------
        kind : a class of values
        method : what is done with them

        Raises
        ------
        TypeError
            If the class has one already.
        """
        if kind in self._known:
            raise TypeError(f"{kind.__name__} has its {self.words} already")
        self._known[kind] = method

    def leave(self, kind: type) -> None:
        """Take a class out again.

        Parameters
        ----------
        kind : the class
        """
        self._known.pop(kind, None)

    def of(self, value: object) -> Method:
        """The method for a value.

        Parameters
        ----------
        value : of a class that was entered

        Raises
        ------
        TypeError
            If its class has none.
        """
        try:
            return self._known[type(value)]
        except KeyError:
            raise TypeError(f"{type(value).__name__} has no {self.words}") from None

    def __contains__(self, kind: object) -> bool:
        return kind in self._known
