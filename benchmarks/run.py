"""Compare Farbe with the same work in pyvips: ``./run bench [NAME ...]``.

Names are sheet, bed, different, survey, screen and start.

Each piece of work is a process of its own; its time and its largest memory are those of the
whole process. Both sides take turns, so that a busy machine slows both. Medians are printed,
and ratios of medians.
"""

from __future__ import annotations

import argparse
import os
import statistics
import subprocess
import sys
import time
from pathlib import Path

import inputs

HERE = Path(__file__).parent
CODECS = ("none", "lzw", "deflate")


def once(script: str, *arguments: str) -> tuple[float, float]:
    """Seconds and largest memory in MB of one process."""
    out = inputs.WORK / "out.tif"
    out.unlink(missing_ok=True)
    start = time.perf_counter()
    what, codec, *rest = arguments
    process = subprocess.Popen([sys.executable, str(HERE / script), what, codec, str(out), *rest])
    _, status, usage = os.wait4(process.pid, 0)
    seconds = time.perf_counter() - start
    if status != 0:
        raise SystemExit(f"{script} {' '.join(arguments)} failed")
    out.unlink(missing_ok=True)
    return seconds, usage.ru_maxrss / 1024


def compare(what: str, codecs: tuple[str, ...], runs: int) -> None:
    print(f"{what}: medians of {runs} runs, seconds, MB")
    for codec in codecs:
        ours, theirs = [], []
        for _ in range(runs):
            ours.append(once("work_farbe.py", what, codec))
            theirs.append(once("work_peer.py", what, codec))
        (a, mb), (b, peer_mb) = (
            tuple(statistics.median(v) for v in zip(*rows, strict=True)) for rows in (ours, theirs)
        )
        print(
            f"  {codec:8} farbe {a:6.1f} s {mb:6.0f} MB   peer {b:6.1f} s {peer_mb:6.0f} MB"
            f"   ratio {a / b:.2f}",
            flush=True,
        )


def growth() -> None:
    """Memory on a bed of the stated size and on one four times as large."""
    for factor in ("1", "2"):
        seconds, mb = once("work_farbe.py", "bed", "deflate", factor)
        print(f"  bed x {int(factor) ** 2}: {seconds:6.1f} s {mb:6.0f} MB", flush=True)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument(
        "what",
        nargs="*",
        default=["sheet", "bed", "different", "survey", "screen", "start", "pockets"],
    )
    parser.add_argument("--runs", type=int, default=3)
    chosen = parser.parse_args()
    inputs.sheet()
    inputs.emblem()
    if "sheet" in chosen.what:
        compare("sheet", CODECS, chosen.runs)
    if "bed" in chosen.what:
        compare("bed", ("lzw", "deflate"), chosen.runs)
        growth()
    if "different" in chosen.what:
        inputs.different()
        compare("different", ("lzw", "deflate"), chosen.runs)
    if "survey" in chosen.what:
        subprocess.run([sys.executable, str(HERE / "survey.py")], check=True)
    for script in ("screen", "start", "pockets"):
        if script in chosen.what:
            subprocess.run([sys.executable, str(HERE / f"{script}.py")], check=True)


main()
