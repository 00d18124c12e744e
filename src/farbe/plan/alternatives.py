"""What a job could have been instead, to be compared with it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from farbe.layout.faced import Faced
from farbe.model.edit import Adjust, CurvePoints, Edit, Gains, Recolour
from farbe.model.printer import LayerKind
from farbe.plan.recipes import Recipe, with_recipe
from farbe.said import say, spoken


@dataclass(frozen=True)
class Alternative:
    """Its words, and the job as it would be; BadInput if it cannot be made so."""

    words: str
    of: Callable[[Faced], Faced]


def alternatives(job: Faced, recipes: Iterable[Recipe]) -> tuple[Alternative, ...]:
    """More and fewer hits of white, no corrections of the artwork, other recipes.

    Parameters
    ----------
    job : as one of its faces has it
    recipes : all that there are
    """
    hits = [la.hits for la in job.stack if la.kind is LayerKind.WHITE and la.on]
    found = []
    if hits:
        found.append(Alternative(say("one hit of white more"), lambda j: with_white_hits(j, 1)))
    if hits and max(hits) > 1:
        found.append(Alternative(say("one hit of white fewer"), lambda j: with_white_hits(j, -1)))
    if uncorrected(job) != job:
        found.append(Alternative(say("the job without corrections"), uncorrected))
    found += [Alternative(say("recipe: {recipe}", recipe=spoken(r.name)), _by(r)) for r in recipes]
    return tuple(found)


def _by(recipe: Recipe) -> Callable[[Faced], Faced]:
    return lambda job: with_recipe(job, recipe)


def with_white_hits(job: Faced, more: int) -> Faced:
    """The job with more hits of every white layer, or fewer, but one at least.

    Parameters
    ----------
    job : the job as one of its faces has it
    more : hits more, or fewer
    """
    return job.replace(
        stack=tuple(
            la.replace(hits=max(1, la.hits + more)) if la.kind is LayerKind.WHITE else la
            for la in job.stack
        )
    )


def uncorrected(job: Faced) -> Faced:
    """The job with its colours as they were sent: what changes their look is switched off.

    Crops and cleared backgrounds stay.

    Parameters
    ----------
    job : as one of its faces has it
    """

    def plain(edit: Edit) -> Edit:
        return edit.replace(on=False) if isinstance(edit, CurvePoints | Adjust | Recolour) else edit

    arts = tuple(
        art.replace(edits=tuple(plain(edit) for edit in art.edits)) for art in job.artworks
    )
    return job.replace(artworks=arts, conversion=job.conversion.replace(gains=Gains()))
