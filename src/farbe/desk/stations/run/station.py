"""Run: the steps in time order, the test press's bed, time, ink, cost, files, the queue."""

from __future__ import annotations

from farbe.desk.pressdesk import PressDesk
from farbe.desk.stations.base import Desk, StationView
from farbe.desk.stations.run.form import RunInspector
from farbe.desk.stations.run.queueview import QueueView
from farbe.desk.stations.run.runlist import RunPicture
from farbe.desk.watchdesk import WatchDesk


def run_station(desk: Desk, press: PressDesk, watcher: WatchDesk) -> StationView:
    """The station's picture, its inspector, and the queue in the section's place."""
    picture = RunPicture(desk, press)
    return StationView(picture, RunInspector(desk, press, watcher, picture), QueueView(desk, press))
