"""What is said between who asks and the process that works apart."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum, auto
from typing import Any

from farbe.layout.figures import Manner
from farbe.render.raster import Cancelled


class Became(Enum):
    """What became of a request."""

    MOVED = auto()
    #: A part of it is there, which the line knows from then on.
    AHEAD = auto()
    DONE = auto()
    REFUSED = auto()
    BROKE = auto()


@dataclass(frozen=True)
class Request:
    """What is to be done, how lengths are told in what it says, and whether others wait for it."""

    number: int
    work: Callable[..., Any]
    args: tuple[Any, ...]
    named: dict[str, Any]
    manner: Manner
    at_once: bool = False


@dataclass(frozen=True)
class Leave:
    """Nobody waits for a request any more: its next report raises this."""

    number: int
    error: type[Cancelled]


@dataclass(frozen=True)
class Answer:
    """What became of a request: a share, a part or all of it, what it refused with, or a mishap."""

    number: int
    became: Became
    told: Any = None
