"""Programs that save, hand off and queue, killed at random moments; what they said is kept.

    python scripts/kills.py [COUNT] [--seed N]

A worker says a line for each thing that it finished. After each kill everything that it said is
there, whole, and what it was at is as it was before or as it was to be. The status is 1 if not.
"""

from __future__ import annotations

import argparse
import os
import random
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from PIL import Image

from farbe.files.handoff import hand_off
from farbe.files.jobfile import open_job, save_job
from farbe.files.store import ArtStore
from farbe.files.ticket import check_files, read_ticket
from farbe.model.base import BadInput
from farbe.plan.newjob import job_taken
from farbe.plan.recipes import recipe
from farbe.queue.store import OPEN, PAST, Queue
from farbe.queue.sweep import sweep

WORKER = """
import sys
from pathlib import Path
from farbe.files.handoff import hand_off
from farbe.files.jobfile import open_job, save_job
from farbe.files.store import ArtStore
from farbe.queue.store import Queue
from farbe.queue.work import add_job
root, number = Path(sys.argv[1]), int(sys.argv[2])
store = ArtStore(root / "art")
job = open_job(root / "first.farbe", store)
print("ready", flush=True)
while True:
    number += 1
    job = job.replace(name=f"Job {number}")
    save_job(job, store, root / "job.farbe")
    print(f"saved {number}", flush=True)
    hand_off(job, store, root / "out")
    print(f"handed {number}", flush=True)
    add_job(Queue(root / "queue"), job, store)
    print(f"queued {number}", flush=True)
"""


class Shop:
    """What workers said, and what is found."""

    def __init__(self, root: Path) -> None:
        self.root, self.store = root, ArtStore(root / "art")
        picture = Image.new("RGBA", (60, 40), (200, 30, 40, 255))
        picture.save(root / "art.png", dpi=(150, 150))
        job = job_taken(self.store.add_artwork(root / "art.png"), recipe("dark opaque piece"))
        self.job = job.replace(printer=job.printer.replace(dpi_x=40, dpi_y=40))
        save_job(self.job, self.store, root / "first.farbe")
        save_job(self.job.replace(name="Job 0"), self.store, root / "job.farbe")
        hand_off(self.job.replace(name="Job 0"), self.store, root / "out")
        self.said = {"saved": 0, "handed": 0}
        self.queued: set[int] = set()

    def work_until_killed(self, seconds: float) -> None:
        """Start a worker, and kill it after so many seconds of its work."""
        last = max(self.said["saved"], self.said["handed"], *self.queued, 0)
        worker = subprocess.Popen(
            [sys.executable, "-c", WORKER, str(self.root), str(last + 1)],
            stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
        )  # fmt: skip
        if worker.stdout is None or worker.stdout.readline() != "ready\n":
            raise RuntimeError("the worker does not start")
        time.sleep(seconds)
        worker.kill()
        for line in worker.stdout.read().splitlines():
            what, number = line.split()
            if what == "queued":
                self.queued.add(int(number))
            else:
                self.said[what] = int(number)
        worker.wait()

    def wrong(self) -> list[str]:
        """What is not as it was said to be."""
        found = []
        try:
            job = open_job(self.root / "job.farbe", self.store)
            if int(job.name.split()[1]) < self.said["saved"]:
                found.append(f"{job.name} is older than what was saved, {self.said['saved']}")
        except BadInput as error:
            found.append(f"the job: {error}")
        try:
            ticket = read_ticket(self.root / "out")
            check_files(self.root / "out", ticket)
            if int(ticket.job.split()[1]) < self.said["handed"]:
                found.append(f"{ticket.job} is older than what was handed off")
        except BadInput as error:
            found.append(f"the hand-off: {error}")
        queue = Queue(self.root / "queue")
        entries = queue.entries((*OPEN, *PAST))
        there = {int(entry.name.split()[1]) for entry in entries}
        if not self.queued <= there:
            found.append(f"lost in the queue: {sorted(self.queued - there)}")
        for entry in entries[-3:]:
            try:
                open_job(queue.job_path(entry.token), self.store)
            except BadInput as error:
                found.append(f"entry {entry.number}: {error}")
        return found

    def left(self) -> list[str]:
        """What kills left behind, an hour later, once the shop is open again."""
        for path in (*self.root.rglob("*"), self.root):
            if path.name.startswith(".hand-off-") or path.parent.name in ("jobs", "files"):
                os.utime(path, (1, 1))
        sweep(Queue(self.root / "queue"), 30.0)
        hand_off(self.job, self.store, self.root / "out")
        return [str(path) for path in self.root.rglob(".hand-off-*")]


def main() -> int:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("count", nargs="?", type=int, default=30)
    asked.add_argument("--seed", type=int, default=1)
    wanted = asked.parse_args()
    chance = random.Random(wanted.seed)
    with tempfile.TemporaryDirectory(prefix="farbe-kills-") as folder:
        shop, wrong = Shop(Path(folder)), list[str]()
        for number in range(wanted.count):
            shop.work_until_killed(chance.uniform(0.0, 0.9))
            wrong += [f"kill {number + 1}: {words}" for words in shop.wrong()]
        wrong += shop.left()
        print("\n".join(wrong))
        print(f"{wanted.count} kills, {len(shop.queued)} jobs, {len(wrong)} findings")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
