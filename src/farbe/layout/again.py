"""What of an order is printed once more, as a job of its own."""

from __future__ import annotations

from farbe.layout.faced import Faced
from farbe.layout.rolls import (
    lying_faces,
    packed_as_it_lay,
    pairs_in_a_column,
    told_by_place,
)
from farbe.model.base import BadInput
from farbe.model.job import Again, Job
from farbe.model.roll import Roll
from farbe.said import say

#: Letters of a name that stay before the word that tells it from its order.
_NAME = 60


def only_again(job: Job, numbers: tuple[int, ...], *, second_only: bool = False) -> Job:
    """The job that prints some of its pieces once more.

    Parameters
    ----------
    job : the order as a whole
    numbers : of its places
    second_only : their second side alone, on the film that has the first

    Returns
    -------
    On a board, and for a second side alone, they lie where they lay; else on a film of their own.

    Raises
    ------
    BadInput
        If a second side alone is asked for where it cannot be.
    """
    job = job.replace(name=f"{job.name[:_NAME]}, again")
    roll = job.medium
    if second_only and not (isinstance(roll, Roll) and Faced(job).two_sided):
        raise BadInput(say("Only on film with two sides is side B printed again by itself."))
    if not isinstance(roll, Roll) or second_only:
        return job.replace(again=Again(numbers=tuple(sorted(numbers)), second_only=second_only))
    places = tuple(roll.places[number - 1] for number in sorted(numbers))
    fewer = job.replace(faces=lying_faces(job, places), medium=roll.replace(places=places))
    made = Faced(told_by_place(fewer, [number - 1 for number in sorted(numbers)]))
    return (pairs_in_a_column(made) if made.two_sided else packed_as_it_lay(made)).job
