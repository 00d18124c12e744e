"""Compare Farbe with the same work in pyvips: ``./run bench [NAME ...] [--write]``.

Names are sheet, bed, different, growth, survey, screen, start and pockets.

Each piece of work is a process of its own, from its start to its exit; its time, its processors'
time and its largest memory are those of the whole process. Both sides take turns, so that a busy
machine slows both, and their plates are compared once. ``--write`` puts the tables into
docs/performance.md.
"""

from __future__ import annotations

import argparse
import os
import statistics
import subprocess
import sys
import time
from dataclasses import dataclass
from pathlib import Path

import inputs
from tables import figures, table, write_tables

HERE = Path(__file__).parent
CODECS = ("none", "lzw", "deflate")
OURS, THEIRS, GROWING = "work_farbe.py", "work_peer.py", "work_growing.py"
#: Ratios that are wanted, by work and codec.
WANTED = {
    "sheet": {"none": 0.35, "lzw": 0.45, "deflate": 0.30},
    "bed": {"lzw": 0.10, "deflate": 0.17},
    "different": {"lzw": 0.60, "deflate": 0.40},
}
#: Work that is done without sparing fine strokes, too, as the peer does it.
SAME = ("sheet", "different")


@dataclass(frozen=True)
class Once:
    """One process: seconds, seconds of all processors, largest memory and file in MB."""

    seconds: float
    cpu: float
    memory: float
    file: float


def once(
    script: str, what: str, codec: str, *rest: str, spared: bool = True, keep: Path | None = None
) -> Once:
    """Do a piece of work in a process of its own; with strokes spared, which only Farbe does."""
    out = inputs.WORK / "out.tif"
    out.unlink(missing_ok=True)
    command = [str(HERE / script), what, codec, str(out), *rest]
    if script == OURS and what in ("sheet", "strip", "choke"):
        factor = int(rest[0]) if rest else 1
        art = inputs.part_of_sheet({"sheet": 64, "strip": factor, "choke": 4}[what])
        choke = 0.1 * factor if what == "choke" else 0.1
        command = ["-m", "farbe", "separate", str(art), "-o", str(out), "--reader", "transfer",
                   "--choke", f"{choke:g}", "--compression", codec]  # fmt: skip
        command += [] if spared else ["--least", "0"]
    elif script == OURS and not spared:
        command += ["plain"]
    start = time.perf_counter()
    process = subprocess.Popen([sys.executable, *command], stdout=subprocess.DEVNULL)
    _, status, usage = os.wait4(process.pid, 0)
    seconds = time.perf_counter() - start
    if status != 0:
        raise SystemExit(f"{script} {what} {codec} failed")
    megabytes = out.stat().st_size / 1e6
    if keep is not None:
        out.replace(keep)
    out.unlink(missing_ok=True)
    return Once(seconds, usage.ru_utime + usage.ru_stime, usage.ru_maxrss / 1024, megabytes)


def check(what: str) -> None:
    """Refuse to compare times of sides whose plates differ."""
    files = tuple(inputs.WORK / f"{side}-{what}.tif" for side in ("ours", "theirs"))
    for script, path in zip((OURS, THEIRS), files, strict=True):
        # A bed that is not compressed is of some ten gigabytes.
        once(script, what, "deflate", spared=what not in SAME, keep=path)
    # Of a process of its own: what this one has taken would count as that of all that it starts.
    how = "in-place" if what == "sheet" else "inks"
    compared = subprocess.run([sys.executable, str(HERE / "plates.py"), *map(str, files), how],
                              check=True, capture_output=True, text=True)  # fmt: skip
    print(f"{what}: {compared.stdout.strip()}", flush=True)
    for path in files:
        path.unlink()


def compare(what: str, runs: int) -> str:
    """A table of a piece of work, by codec."""
    ours = ("spared", "not spared") if what in SAME else ("spared",)
    rows = []
    for codec, wanted in WANTED[what].items():
        taken: dict[str, list[Once]] = {strokes: [] for strokes in (*ours, "peer")}
        for _ in range(runs):
            for strokes, found in taken.items():
                script = THEIRS if strokes == "peer" else OURS
                found.append(once(script, what, codec, spared=strokes != "not spared"))
                # It takes long, and what was found is not to be lost where it is ended.
                print(f"{what} {codec} {strokes}: {found[-1].seconds:.1f} s", flush=True)
        theirs = taken["peer"]
        for strokes in ours:
            both = zip(taken[strokes], theirs, strict=True)
            ratios = figures([a.seconds / b.seconds for a, b in both], 2)
            rows.append([codec, strokes, *_side(taken[strokes]), *_side(theirs), ratios,
                         f"{wanted:.2f}"])  # fmt: skip
    side = ("s", "processors", "MB", "file MB")
    heads = [f"{who}, {one}" for who in ("Farbe", "peer") for one in side]
    made = table(["codec", "fine strokes", *heads, "ratio", "to reach"], rows)
    print(f"{what}, medians of {runs} runs, least and most\n{made}", flush=True)
    return made


def _side(runs: list[Once]) -> list[str]:
    return [
        figures([one.seconds for one in runs], 1),
        f"{statistics.median(one.cpu / one.seconds for one in runs):.1f}",
        f"{statistics.median(one.memory for one in runs):.0f}",
        f"{runs[0].file:.0f}",
    ]


def growth(runs: int) -> str:
    """A table of 1, 4, 16 and 64 times the work."""
    rows, factors = [], (1, 4, 16, 64)
    for what, script, sides in (
        ("strip", OURS, factors), ("choke", OURS, factors), ("bed", OURS, (1, 2, 4, 8)),
        *((what, GROWING, factors) for what in ("pockets", "artworks", "queue", "roll")),
    ):  # fmt: skip
        first = None
        for factor in sides:
            found = [once(script, what, "lzw", str(factor)) for _ in range(runs)]
            times = factor**2 if what == "bed" else factor
            seconds = statistics.median(one.seconds for one in found)
            first = first or seconds
            rows.append([what, f"{times}", figures([one.seconds for one in found], 1),
                         f"{seconds / first:.1f}",
                         f"{statistics.median(one.memory for one in found):.0f}"])  # fmt: skip
    made = table(["work", "times", "s", "times as long", "MB"], rows)
    print(f"growth\n{made}", flush=True)
    return made


def main() -> None:
    # What is installed is compiled, and so are the peer's packages.
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    parser = argparse.ArgumentParser(description=__doc__)
    scripts = ("survey", "screen", "start", "pockets")
    parser.add_argument("what", nargs="*", default=[*WANTED, "growth", *scripts])
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--write", action="store_true")
    chosen = parser.parse_args()
    # By a process of its own, as plates are compared: memory of this one would count as theirs.
    subprocess.run([sys.executable, str(HERE / "inputs.py")], check=True)
    tables: dict[str, str] = {}
    for what in WANTED:
        if what in chosen.what:
            check(what)
            tables[what] = compare(what, chosen.runs)
    if "growth" in chosen.what:
        tables["growth"] = growth(chosen.runs)
    if chosen.write:
        write_tables(HERE.parent / "docs" / "performance.md", tables)
    for script in scripts:
        if script in chosen.what:
            subprocess.run([sys.executable, str(HERE / f"{script}.py")], check=True)


main()
