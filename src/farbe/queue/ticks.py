"""Steps of a run list that the operator ticked, for printers that say nothing themselves."""

from __future__ import annotations

import hashlib
from pathlib import Path

from farbe.estimate.steps import Step
from farbe.model.job import Job
from farbe.queue.base import transaction

#: Jobs whose ticks are kept.
TICKED = 2000


def run_list_key(job: Job, listed: tuple[Step, ...]) -> str:
    """What a job's run list is known by; the same steps of a job are the same list.

    Parameters
    ----------
    job : the order as a whole
    listed : its steps
    """
    # Of values alone: words change with the user's language and units.
    values = [job.name, job.printer.name]
    values += [f"{step.kind.value} {step.run} {step.height} {step.seconds:.1f}" for step in listed]
    values += [f"{la.name} {la.hits}" for face in job.faces for la in face.stack if la.on]
    return hashlib.sha256("\0".join(values).encode("utf-8")).hexdigest()


def ticked(folder: Path, key: str) -> int:
    """How many steps were ticked.

    Parameters
    ----------
    folder : of the queue
    key : of the run list
    """
    with transaction(folder, writes=False) as base:
        row = base.execute("SELECT steps FROM tick WHERE job = ?", (key,)).fetchone()
    return 0 if row is None else int(row[0])


def tick(folder: Path, key: str, steps: int) -> None:
    """Keep how many steps are ticked.

    Parameters
    ----------
    folder : of the queue
    key : of the run list
    steps : how many
    """
    with transaction(folder) as base:
        last = base.execute("SELECT COALESCE(MAX(last), 0) FROM tick").fetchone()[0]
        base.execute("INSERT OR REPLACE INTO tick VALUES (?, ?, ?)", (key, steps, last + 1))
        base.execute("DELETE FROM tick WHERE last <= ?", (last + 1 - TICKED,))
