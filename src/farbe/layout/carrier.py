"""What a medium means for the work: where pieces lie on it, and what is done by hand."""

from __future__ import annotations

import inspect
from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar, Protocol

from farbe.layout.faced import Faced
from farbe.layout.pockets import Pocket
from farbe.layout.prints import Allotment
from farbe.model.medium import MediumValue
from farbe.model.patch import Patch
from farbe.said import say

if TYPE_CHECKING:
    from farbe.layout.strip import LaidStrip


class Found(Protocol):
    """Where places of the bed really are, as measured."""

    @property
    def rotation(self) -> float:
        """Degrees, anticlockwise."""

    def moved(self, x: float, y: float) -> tuple[float, float]:
        """Where a place in mm really is.

        Parameters
        ----------
        x : mm to the right
        y : mm away
        """


@dataclass(frozen=True)
class Base:
    """What lies under the pieces: its near left corner and size on the bed in mm, its colour."""

    x: float
    y: float
    width: float
    height: float
    colour: str


@dataclass(frozen=True)
class Handwork:
    """Something that the operator does.

    Attributes
    ----------
    seconds : that it takes
    run : what the press does with it: "place", "turn"
    height : of the piece in mm, to which the head is set
    confirmed : the operator says when it is done
    """

    text: str
    detail: str
    seconds: float
    run: str | None = None
    height: float | None = None
    confirmed: bool = False


class Carrier(ABC):
    """What one medium means for a job; all that differs by medium is asked of it.

    Attributes
    ----------
    medium : the kind of value that a job states it by
    word, thing : what tickets and operators call it
    has_guide : whether a guide shows where pieces go
    one_sheet : pieces are one sheet until they are cut apart
    nothing_lies, nothing_prints : sentences for a job without any piece, or without any print
    """

    medium: ClassVar[type[MediumValue]]
    word: ClassVar[str]
    thing: ClassVar[str]
    has_guide: ClassVar[bool]
    one_sheet: ClassVar[bool] = False
    nothing_lies: ClassVar[str]
    nothing_prints: ClassVar[str] = say("No pocket gets an artwork; raise a quantity in the tray.")

    def carries(self, job: Faced) -> bool:
        """Whether a job is printed on it.

        Parameters
        ----------
        job : as one of its faces has it
        """
        return isinstance(job.job.medium, self.medium)

    @abstractmethod
    def size(self, job: Faced) -> tuple[float, float]:
        """Width and length in mm of what passes under the heads.

        Parameters
        ----------
        job : the job as one of its faces has it
        """

    @abstractmethod
    def places(self, job: Faced) -> tuple[Pocket, ...]:
        """Where pieces can lie, in the order of their numbers.

        Parameters
        ----------
        job : as one of its faces has it
        """

    @abstractmethod
    def allotment(self, job: Faced) -> Allotment:
        """What each place prints, for the reader of the job's face.

        Parameters
        ----------
        job : as one of its faces has it
        """

    @abstractmethod
    def found(self, job: Faced) -> Found | None:
        """What was measured of where places really are; None without any.

        Parameters
        ----------
        job : as one of its faces has it

        Raises
        ------
        BadInput
            If what was measured cannot be followed.
        """

    @abstractmethod
    def base(self, job: Faced) -> Base:
        """What lies under the pieces.

        Parameters
        ----------
        job : as one of its faces has it
        """

    @abstractmethod
    def label_corner(self, job: Faced) -> tuple[float, float]:
        """From where in mm the label runs to the right.

        Parameters
        ----------
        job : the job as one of its faces has it
        """

    def no_strip(self, job: Faced) -> str:
        """Why a control strip cannot lie on it, as an end of a sentence; empty if it can.

        Parameters
        ----------
        job : the job as one of its faces has it
        """
        return ""

    @abstractmethod
    def strips(self, job: Faced, patches: tuple[Patch, ...]) -> tuple[LaidStrip, ...]:
        """Where a control strip lies; several where there are several sheets, none without room.

        Parameters
        ----------
        job : the job as its first face has it
        patches : of the strip
        """

    @abstractmethod
    def words(self, job: Faced, count: int) -> str:
        """So many pieces on it, as the job line says.

        Parameters
        ----------
        job : the job as one of its faces has it
        count : how many there are
        """

    @abstractmethod
    def material_cost(self, job: Faced) -> float:
        """Price of what of it is used up.

        Parameters
        ----------
        job : the job as one of its faces has it
        """

    @abstractmethod
    def loading(self, job: Faced, count: int) -> tuple[Handwork, ...]:
        """What is done before the first run, where no guide shows it.

        Parameters
        ----------
        job : the job as one of its faces has it
        count : how many there are
        """

    @abstractmethod
    def turning_over(self, job: Faced, count: int) -> tuple[Handwork, ...]:
        """What is done before the second side.

        Parameters
        ----------
        job : the job as one of its faces has it
        count : how many there are
        """

    @abstractmethod
    def taking_off(self, job: Faced, count: int) -> Handwork:
        """How pieces come off it.

        Parameters
        ----------
        job : the job as one of its faces has it
        count : how many there are
        """


_CARRIERS: list[Carrier] = []


def carrier(kind: type[Carrier]) -> type[Carrier]:
    """Enter a carrier; one that is entered later is asked first. Used as a decorator.

    Parameters
    ----------
    kind : the class, for one medium

    Returns
    -------
    The class as it is.

    Raises
    ------
    TypeError
        If it is incomplete, or a carrier of its name is there already.
    """
    if inspect.isabstract(kind):
        lacks = ", ".join(sorted(kind.__abstractmethods__))
        raise TypeError(f"the carrier {kind.__name__} lacks {lacks}")
    facts = ("medium", "word", "thing", "has_guide", "nothing_lies")
    lacking = [name for name in facts if not hasattr(kind, name)]
    if lacking:
        raise TypeError(f"the carrier {kind.__name__} does not state its {lacking[0]}")
    if any(type(one).__name__ == kind.__name__ for one in _CARRIERS):
        raise TypeError(f"there is a carrier {kind.__name__} already")
    _CARRIERS.append(kind())
    return kind


def leave(kind: type[Carrier]) -> None:
    """Take a carrier out again.

    Parameters
    ----------
    kind : of carrier
    """
    _CARRIERS[:] = [one for one in _CARRIERS if type(one) is not kind]


def carriers() -> tuple[Carrier, ...]:
    """All carriers, the first to be asked first."""
    # They build on what is here, so they cannot be imported before it.
    from farbe.layout import onbed, onfilm  # noqa: F401

    return tuple(reversed(_CARRIERS))


def carrier_of(job: Faced) -> Carrier:
    """The carrier of a job.

    Parameters
    ----------
    job : as one of its faces has it

    Raises
    ------
    TypeError
        If its medium has none.
    """
    for one in carriers():
        if one.carries(job):
            return one
    raise TypeError(f"nothing carries the medium {job.job.medium.kind}")
