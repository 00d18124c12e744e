"""Cautions that are meant: kept in the job, and asked again when they get worse."""

from __future__ import annotations

from dataclasses import replace

from farbe.checks.check import Check
from farbe.checks.weight import Weight
from farbe.layout.faced import Faced
from farbe.model.job import Accepted

#: Share by which a figure may grow before it is asked about again.
SLACK = 0.02


def can_be_accepted(check: Check) -> bool:
    """Whether a finding is a caution that the operator may call meant.

    A guess is not: it is right, or something else is stated.

    Parameters
    ----------
    check : a finding
    """
    is_caution = check.weight is Weight.CAUTION and check.mishap is None
    return is_caution and check.code != "facts-guessed"


def accepted(job: Faced, check: Check) -> Faced:
    """The job with a caution that is meant, with its figure of now.

    Parameters
    ----------
    job : as any of its faces has it
    check : found in it

    Returns
    -------
    The same job where the finding is no caution.
    """
    if not can_be_accepted(check):
        return job
    entry = Accepted(code=check.code, about=check.about, face=check.face, figure=check.figure)
    return job.replace(accepted=(*_others(job, check), entry))


def asked_again(job: Faced, check: Check) -> Faced:
    """The job in which a caution is no longer accepted.

    Parameters
    ----------
    job : as one of its faces has it
    check : a finding
    """
    return job.replace(accepted=_others(job, check))


def _others(job: Faced, check: Check) -> tuple[Accepted, ...]:
    return tuple(one for one in job.job.accepted if not _is_of(one, check))


def _is_of(one: Accepted, check: Check) -> bool:
    return (one.code, one.about, one.face) == (check.code, check.about, check.face)


def with_accepted(job: Faced, found: list[Check]) -> list[Check]:
    """Findings, those marked that were accepted and got no worse.

    Parameters
    ----------
    job : that keeps what was accepted
    found : of all its faces
    """

    def meant(check: Check) -> bool:
        if not can_be_accepted(check):
            return False
        for one in job.job.accepted:
            if _is_of(one, check):
                if one.figure is None or check.figure is None:
                    return True
                return check.figure <= one.figure * (1.0 + SLACK) + 1e-9
        return False

    return [replace(check, accepted=meant(check)) for check in found]
