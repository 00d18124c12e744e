"""What a job could have been instead, to be compared with it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial

from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.edit import Adjust, CurvePoints, Edit, Gains, Recolour
from farbe.model.printer import LayerKind
from farbe.plan.recipes import Recipe, with_recipe
from farbe.said import say, spoken


@dataclass(frozen=True)
class Alternative:
    """Its words, and the job as it would be; BadInput if it cannot be made so.

    It can be sent to another process: what makes it is a function of a module, or a part of one.
    """

    words: str
    of: Callable[[Faced], Faced]


def as_it_is(job: Faced) -> Faced:
    """The job itself.

    Parameters
    ----------
    job : as one of its faces has it
    """
    return job


#: Stands for the artwork as it was sent, laid on the surface.
ARTWORK = Alternative(say("the artwork"), as_it_is)


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
        found.append(Alternative(say("one hit of white more"), partial(with_white_hits, more=1)))
    if hits and max(hits) > 1:
        found.append(Alternative(say("one hit of white fewer"), partial(with_white_hits, more=-1)))
    if uncorrected(job) != job:
        found.append(Alternative(say("the job without corrections"), uncorrected))
    found += [
        Alternative(
            say("recipe: {recipe}", recipe=spoken(one.name)), partial(with_recipe, recipe_=one)
        )
        for one in recipes
    ]
    return tuple(found)


def kept(job: Faced) -> Alternative:
    """A job as it is now, for later.

    Parameters
    ----------
    job : as one of its faces has it
    """
    return Alternative(say("the look that was kept"), partial(_as_kept, job=job))


def _as_kept(now: Faced, job: Faced) -> Faced:
    if now.piece.shape != job.piece.shape or now.bleed != job.bleed:
        raise BadInput(say("The look that was kept is of another piece; keep the present one."))
    return job


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
