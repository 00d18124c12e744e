"""Whatever a job says, it is made, or refused in a sentence."""

from __future__ import annotations

import contextlib
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from anyjob import any_job
from conftest import Sample
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.checks.stops import stops
from farbe.estimate.report import estimate_report, report_csv
from farbe.files.handoff import hand_off_sheets
from farbe.files.jobfile import open_job, save_job
from farbe.files.store import ArtStore
from farbe.follows.preview import preview_of
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.plan.sentence import job_line, piece_words
from farbe.render.onepass import one_pass
from farbe.render.raster import unwatched
from farbe.samples.jobs import SAMPLES

#: Dots to the inch at most: enough for all that is worked out, and quick.
COARSE = (60.0, 75.0)


@contextlib.contextmanager
def or_refused() -> Iterator[None]:
    """Either it is done, or one sentence says why not."""
    try:
        yield
    except BadInput as error:
        said = str(error)
        assert said.strip() and "Traceback" not in said and "Error" not in said


def coarse(job: Job) -> Job:
    """A job on a printer of few dots."""
    x, y = COARSE
    printer = job.printer
    # Modes would bring their own.
    few = {"dpi_x": min(x, printer.dpi_x), "dpi_y": min(y, printer.dpi_y), "modes": ()}
    return job.model_copy(update={"printer": printer.model_copy(update=few)})


def is_made(job: Job, store: ArtStore, folder: Path) -> None:
    """Saved, told, seen, counted, checked and handed off."""
    faces = [Faced(job, number) for number in range(len(job.faces))]
    save_job(job, store, folder / "any.farbe")
    assert open_job(folder / "any.farbe", store) == job
    for face in faces:
        assert job_line(face) and piece_words(face)
        for pocket in (1, 3, 9999):
            with or_refused():
                seen = preview_of(face, pocket, store, unwatched, coarse=True)
                assert all(plate.shape == seen.look.shape[:2] for plate in seen.plates)
    with or_refused():
        report = estimate_report(faces[0], store)
        assert report["pieces"] >= 0 and report["seconds"] >= 0 and report_csv(report)
    for face in faces:
        for check in run_checks(Facts(face, store)):
            assert check.text.strip() and "{" not in check.code
    with one_pass():
        # What no check stops is handed off.
        if not stops(job, store):
            for ticket in hand_off_sheets(job, store, folder / "out"):
                assert ticket.runs and all(run.files for run in ticket.runs)


@settings(
    max_examples=6,
    # One job takes too long to look for the least that fails.
    phases=(Phase.explicit, Phase.reuse, Phase.generate),
)
@given(data=st.data())
@pytest.mark.long
@pytest.mark.parametrize("name", SAMPLES)
def test_any_job_is_made_or_refused_in_a_sentence(
    sample: Sample, name: str, data: st.DataObject
) -> None:
    job, store = sample(name)
    changed = coarse(data.draw(any_job(job.job)))
    with tempfile.TemporaryDirectory() as folder:
        is_made(changed, store, Path(folder))
