"""SHA-256 of every file of the hand-offs of jobs, to see that a change of the code changes no byte.

    python scripts/hand_off_sums.py JOB.farbe|DIR ... > before.txt
    (change the code)
    python scripts/hand_off_sums.py --against before.txt JOB.farbe|DIR ...

Without jobs, all samples are made anew. Labels carry the day, so compare within one.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import re
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from farbe.files.handoff import hand_off_sheets
from farbe.files.jobfile import SUFFIX, open_job
from farbe.files.store import ArtStore
from farbe.model.base import BadInput
from farbe.samples.jobs import write_samples


def sums(job: Path) -> list[str]:
    """A line for each file of a job's hand-off: its digest, and its name under the job's."""
    with tempfile.TemporaryDirectory(prefix="farbe-") as scratch:
        store, folder = ArtStore(Path(scratch) / "store"), Path(scratch) / "out"
        try:
            hand_off_sheets(open_job(job, store), store, folder)
        except BadInput as error:
            return [f"refused {job.stem}: {error}"]
        return [
            f"{hashlib.sha256(_told(path)).hexdigest()} {job.stem}/{path.relative_to(folder)}"
            for path in sorted(folder.rglob("*"))
            if path.is_file()
        ]


#: What names the writing of a PDF itself: its number, times, and the number of the copy.
_OF_A_COPY = re.compile(
    rb"/ID ?\[[^]]*\]|D:\d{14}Z?|\d{4}-\d\d-\d\dT[\d:]{8}(Z|[+-][\d:]+)?|uuid:[0-9a-f-]{36}"
)


def _told(path: Path) -> bytes:
    """What is in a file, without what names its writing; of a ticket without sums of PDFs."""
    data = path.read_bytes()
    if path.suffix == ".pdf":
        return _OF_A_COPY.sub(b"", data)
    if path.name == "ticket.json":
        ticket = json.loads(data)
        for run in ticket.get("runs", ()):
            for file in run.get("files", ()):
                if str(file.get("name", "")).endswith(".pdf"):
                    file.pop("sha256", None)
        return json.dumps(ticket, sort_keys=True).encode("utf-8")
    return data


def found(paths: list[Path], scratch: Path) -> Iterator[Path]:
    """The job files that are named, or in folders that are."""
    if not paths:
        paths = write_samples(scratch / "samples", ArtStore(scratch / "store"))
    for path in paths:
        yield from sorted(path.glob(f"*{SUFFIX}")) if path.is_dir() else (path,)


def main() -> int:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("jobs", nargs="*", type=Path)
    asked.add_argument("--against", type=Path, help="sums that were written before")
    args = asked.parse_args()
    with (
        tempfile.TemporaryDirectory(prefix="farbe-") as scratch,
        ProcessPoolExecutor(2) as pool,
    ):
        lines = [line for of in pool.map(sums, found(args.jobs, Path(scratch))) for line in of]
    if args.against is None:
        print("\n".join(lines))
        return 0
    before, after = set(args.against.read_text(encoding="utf-8").splitlines()), set(lines)
    for line in sorted(before ^ after, key=lambda text: text.split(" ", 1)[1]):
        print("-" if line in before else "+", line)
    print(f"{len(before & after)} files are equal, {len(before - after)} are not", file=sys.stderr)
    return 1 if before != after else 0


if __name__ == "__main__":
    sys.exit(main())
