"""Findings from surveys: what several prints have in common, how much, and where."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from farbe.checks.check import CheckPlace, Facts
from farbe.layout.figures import square
from farbe.said import say
from farbe.survey.prints import PrintSurvey
from farbe.survey.survey import LESS_IS_WORSE, Mark, Matter, Survey

#: Places that a finding names.
MOST_PLACES = 24


@dataclass(frozen=True)
class Found:
    """One matter of one layer on all prints that have it.

    Attributes
    ----------
    area : mm² on a print, the most of any
    worst : the worst figure, as :class:`Matter` tells of each
    share : of the artwork on the print that has the most, 0 to 1
    prints : different prints that have it
    pockets : that print them
    places : the largest first, those of the worst print before all others
    """

    layer: str
    area: float
    worst: float
    share: float
    prints: int
    pockets: int
    places: tuple[CheckPlace, ...]

    @property
    def on(self) -> str:
        """On how many prints, for the end of a sentence; nothing for one."""
        return (
            ""
            if self.prints == 1
            else say(" on each of {prints} prints, at the most", prints=self.prints)
        )


def found(
    facts: Facts,
    *matters: Matter,
    layer: str | None = None,
    of: Callable[[Survey], float] = lambda survey: survey.shape,
) -> Found | None:
    """What was found of some matters, taken together; None if nothing was.

    Parameters
    ----------
    facts : of the face
    matters : that are one to the operator
    layer : only what is about this layer
    of : what the share is of, in mm²

    Returns
    -------
    Areas in mm²; None if no print has any of it.
    """
    on: list[tuple[PrintSurvey, list[Mark]]] = []
    for one in facts.surveys:
        marks = [mark for matter in matters for mark in one.survey.of(matter)
                 if layer is None or mark.layer == layer]  # fmt: skip
        if marks:
            on.append((one, marks))
    if not on:
        return None
    on.sort(key=lambda pair: -sum(mark.area for mark in pair[1]))
    first, marks = on[0]
    area = sum(mark.area for mark in marks)
    worst = min if matters[0] in LESS_IS_WORSE else max
    return Found(
        layer=layer or marks[0].layer,
        area=area,
        worst=worst(mark.worst for _, each in on for mark in each),
        share=area / max(of(first.survey), 1e-9),
        prints=len(on),
        pockets=sum(len(one.pockets) for one, _ in on),
        places=_places(facts, on),
    )


def _places(facts: Facts, on: list[tuple[PrintSurvey, list[Mark]]]) -> tuple[CheckPlace, ...]:
    places: list[CheckPlace] = []
    for one, marks in on:
        pocket = one.pockets[0] if one.pockets else 1
        spots = sorted((s for mark in marks for s in mark.spots), key=lambda spot: -spot.area)
        places += [
            CheckPlace(pocket, s.left, s.bottom, s.width, s.height, s.x, s.y, facts.job.number)
            for s in spots
        ]  # fmt: skip
        if len(places) >= MOST_PLACES:
            break
    return tuple(places[:MOST_PLACES])


def layers_with(facts: Facts, matter: Matter) -> tuple[str, ...]:
    """The layers of which something was found, in the order in which they were met.

    Parameters
    ----------
    facts : a face of a job, with what was found of it
    matter : what is the matter
    """
    return tuple(dict.fromkeys(
        mark.layer for one in facts.surveys for mark in one.survey.of(matter)
    ))  # fmt: skip


#: mm² below which none is told apart.
LEAST_AREA = 0.1


def area_words(area: float) -> str:
    """An area in words: mm², or cm² where it is large.

    Parameters
    ----------
    area : mm²
    """
    if area < LEAST_AREA:
        return say("under {least_area}", least_area=square(LEAST_AREA))
    return square(area)
