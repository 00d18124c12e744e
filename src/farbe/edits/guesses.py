"""What nobody stated yet: guesses stand until the fact that they are about is stated."""

from __future__ import annotations

from farbe.model.job import Guess, Job


def settled_guesses(before: Job, after: Job) -> Job:
    """A job after an edit, without guesses about facts that the edit stated.

    Parameters
    ----------
    before, after : the edit
    """
    if not after.guesses or before.guesses != after.guesses:
        return after
    left = tuple(guess for guess in after.guesses if _fact(before, guess) == _fact(after, guess))
    return after if left == after.guesses else after.replace(guesses=left)


def _fact(job: Job, guess: Guess) -> object:
    match guess:
        case Guess.PIECE:
            return job.piece.shape
        case Guess.COUNT:
            jig = job.jig
            return (jig.columns, jig.rows, jig.off, jig.first_only, jig.pattern,
                    [art.quantity for face in job.faces for art in face.artworks])  # fmt: skip
        case Guess.SURFACE:
            return job.piece.surface
