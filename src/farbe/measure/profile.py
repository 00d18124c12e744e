"""An ICC profile from colours that were measured, by Argyll's ``colprof`` as a program apart."""

from __future__ import annotations

import shutil
import subprocess
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from farbe.files.cgats import CgatsTable, cgats_text
from farbe.model.base import BadInput
from farbe.optics.patches import Floats
from farbe.said import Spoken, say

PROGRAM = "colprof"
#: The package of Debian and Ubuntu that has it.
PACKAGE = "argyll"
#: Seconds after which it is ended, and between two looks whether it is to be.
LONGEST, LOOK = 1800.0, 0.1
#: Fewest colours that make a profile.
FEWEST = 40
#: Black in percent of what could be replaced: none in lights, most of it in darks.
_BLACK = ("-kp", "0", "0.35", "0.95", "0.9", "0.8")


#: Where the package keeps sRGB, beside its programs.
_SRGB = "share/color/argyll/ref/sRGB.icm"


class Detail(Spoken):
    """How fine a profile's tables are; finer ones take minutes."""

    LOW = "low"
    MEDIUM = "medium"
    HIGH = "high"


_LETTERS = {Detail.LOW: "l", Detail.MEDIUM: "m", Detail.HIGH: "h"}


def can_make_profiles() -> bool:
    """Whether the program is there."""
    return shutil.which(PROGRAM) is not None


def made_profile(
    inks: Floats,
    lab: Floats,
    name: str,
    *,
    total: float = 400.0,
    detail: Detail = Detail.MEDIUM,
    both_ways: bool = True,
    report: Callable[[float], None] = lambda _: None,
) -> bytes:
    """A CMYK profile of colours.

    Parameters
    ----------
    inks : percent, (n, 4)
    lab : CIE L*a*b* under D50, (n, 3)
    name : that it gets
    total : most ink that it asks for, percent
    detail : of its tables
    both_ways : it converts colour into ink, too, not only ink into colour
    report : is called while it is made; what it raises ends the work

    Returns
    -------
    ICC bytes.

    Raises
    ------
    BadInput
        If the program is missing or cannot make a profile of them.
    """
    if not can_make_profiles():
        raise BadInput(
            say("Profiles are made by the program {program}; install it with: sudo apt-get install "
                "{package}. All else of the condition can be taken without it.",
                program=PROGRAM, package=PACKAGE)
        )  # fmt: skip
    if len(inks) < FEWEST:
        raise BadInput(
            say("{count} colours are too few for a profile; it needs {fewest}.",
                count=len(inks), fewest=FEWEST)
        )  # fmt: skip
    with tempfile.TemporaryDirectory(prefix="farbe-profile-") as folder:
        base = Path(folder) / "made"
        base.with_suffix(".ti3").write_text(_ti3(inks, lab), encoding="ascii")
        plain = "".join(letter if letter.isascii() else "?" for letter in name)[:60]
        letter = _LETTERS[detail]
        ways = (f"-b{letter}", *_BLACK, *_perceptual(detail)) if both_ways else ("-bn",)
        command = [
            PROGRAM, f"-q{letter}", *ways, f"-l{round(total)}", "-D", plain, "-A", "Farbe",
            "-O", "made.icc", "made",
        ]  # fmt: skip
        _run(command, Path(folder), report)
        return (Path(folder) / "made.icc").read_bytes()


def _perceptual(detail: Detail) -> tuple[str, ...]:
    """How the perceptual intent is mapped; without the program's own sRGB, or in a low detail,
    it is as the colorimetric one."""
    found = Path(shutil.which(PROGRAM) or "").resolve().parents[1] / _SRGB
    if detail is Detail.LOW or not found.is_file():
        return ()
    return ("-S", str(found), "-cmt", "-dpp")


def _run(command: list[str], folder: Path, report: Callable[[float], None]) -> None:
    """Run the program to its end, or end it when the caller wants no more."""
    began = time.monotonic()
    log = folder / "log"
    with log.open("wb") as said, subprocess.Popen(
        command, cwd=folder, stdin=subprocess.DEVNULL, stdout=said, stderr=said
    ) as process:  # fmt: skip
        try:
            while process.poll() is None:
                spent = time.monotonic() - began
                report(spent / (spent + 20.0))
                if spent > LONGEST:
                    raise BadInput(say("The profile took too long; take a lower detail."))
                time.sleep(LOOK)
        finally:
            process.kill()
    if process.returncode or not (folder / "made.icc").is_file():
        words = log.read_text(encoding="utf-8", errors="replace").strip().splitlines()
        raise BadInput(
            say("No profile can be made of these readings ({why}); read the chart again.",
                why=words[-1][:120] if words else PROGRAM)
        )  # fmt: skip


def _ti3(inks: Floats, lab: Floats) -> str:
    """Colours as the program reads them."""
    fields = ("SAMPLE_ID", "CMYK_C", "CMYK_M", "CMYK_Y", "CMYK_K", "LAB_L", "LAB_A", "LAB_B")
    rows = tuple(
        (str(at), *(f"{figure:.4f}" for figure in row))
        for at, row in enumerate(np.column_stack([inks, lab]).tolist(), start=1)
    )
    keywords = {"DEVICE_CLASS": "OUTPUT", "COLOR_REP": "CMYK_LAB"}
    return cgats_text(CgatsTable(fields, rows, keywords), own=tuple(keywords), kind="CTI3\n")
