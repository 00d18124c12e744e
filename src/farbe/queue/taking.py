"""How artwork that comes by itself becomes a job."""

from __future__ import annotations

from collections.abc import Callable

from farbe.edits.artwork import with_only
from farbe.edits.consequences import settled
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.model.artwork import ArtworkFile
from farbe.model.job import Job
from farbe.plan.newjob import job_taken
from farbe.plan.recipes import Recipe
from farbe.plan.spots import with_plates

JobFor = Callable[[ArtworkFile], Job]


def by_recipe(recipe: Recipe, store: ArtStore) -> JobFor:
    """One piece as large as the artwork, as a recipe says; on film it is laid there.

    Parameters
    ----------
    recipe : whose profile, if it brings one, is in the store
    store : where the artwork is
    """

    def job_for(artwork: ArtworkFile) -> Job:
        made = Faced(job_taken(artwork, recipe))
        for art in made.artworks:
            made = with_plates(made, art)
        return settled(made, store).job

    return job_for


def by_job(pattern: Job, store: ArtStore) -> JobFor:
    """A job with the artwork in place of its own.

    Parameters
    ----------
    pattern : that says all but the artwork
    store : where the artwork is
    """
    return lambda artwork: settled(with_only(Faced(pattern), artwork), store).job
