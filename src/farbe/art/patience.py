"""How long a group of processes has worked, as a machine that does nothing else counts it (Linux).

A clock would end honest work on a machine that others keep busy, be they programs or other virtual
machines; time of the processors would let work pass that keeps several of them busy at once.
"""

from __future__ import annotations

import os
import time
from dataclasses import dataclass
from pathlib import Path

#: However busy the machine, nothing takes more than so many times the seconds that it may.
MOST = 6.0
_PROC = Path("/proc")


@dataclass(frozen=True)
class Moment:
    """What has passed until now.

    Attributes
    ----------
    clock : seconds, from any beginning
    processors : of the machine
    taken : seconds of all processors that somebody had, other virtual machines among them
    """

    clock: float
    processors: int
    taken: float


def now() -> Moment:
    """This moment (proc(5), /proc/stat)."""
    lines = (_PROC / "stat").read_text().splitlines()
    all_, *each = (line.split() for line in lines if line.startswith("cpu"))
    user, nice, system, _idle, _waiting, *others = map(int, all_[1:9])
    taken = (user + nice + system + sum(others)) / os.sysconf("SC_CLK_TCK")
    return Moment(time.monotonic(), max(1, len(each)), taken)


def work_of(group: int) -> float:
    """Seconds of processors that the processes of a group had, ended ones among them (proc(5)).

    Parameters
    ----------
    group : its number
    """
    ticks = 0
    for folder in _PROC.iterdir():
        if not folder.name.isdigit():
            continue
        try:
            said = (folder / "stat").read_text()
        except OSError:
            # It has ended meanwhile.
            continue
        # The name of the program comes before, in parentheses, and may hold anything.
        fields = said[said.rindex(")") + 2 :].split()
        if int(fields[2]) == group:
            ticks += sum(map(int, fields[11:15]))
    return ticks / os.sysconf("SC_CLK_TCK")


def worked(begun: Moment, ended: Moment, work: float) -> float:
    """Seconds that work would have taken had nobody else wanted the machine.

    What others had of the processors is time in which there was less of the machine. Time in which
    nobody wanted them counts: who waits for something else is to come to an end, too.

    Parameters
    ----------
    begun, ended : when it began, and when it ended or was looked at
    work : seconds of processors that it had
    """
    others = max(0.0, ended.taken - begun.taken - work)
    return ended.clock - begun.clock - others / ended.processors


def is_over(begun: Moment, group: int, seconds: float) -> bool:
    """Whether a group of processes has taken as long as it may.

    Parameters
    ----------
    begun : when it did
    group : its number
    seconds : that it may take on a machine that does nothing else
    """
    moment = now()
    passed = moment.clock - begun.clock
    return passed > MOST * seconds or worked(begun, moment, work_of(group)) > seconds
