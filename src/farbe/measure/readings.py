"""What devices read of a chart: CGATS text, CxF, or a table with commas."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from xml.etree import ElementTree

import numpy as np

from farbe.colour.lab import xyz_of_lab
from farbe.colour.spectra import xyz_of_spectra
from farbe.files.cgats import CgatsTable, number_in, read_cgats
from farbe.files.reference import read_words
from farbe.model.base import BadInput
from farbe.optics.patches import Floats
from farbe.said import say

#: Names that devices give a field of spectra, and its wavelength in nm.
_SPECTRAL = re.compile(r"(?:SPECTRAL_NM_?|SPECTRAL_|SPEC_|NM_?|R_?|)(\d{3})(?:\.0+)?(?:_?NM)?")
_LAB = (("LAB_L", "L*", "L", "CIE_L"), ("LAB_A", "A*", "A", "CIE_A"), ("LAB_B", "B*", "B", "CIE_B"))
_XYZ = (("XYZ_X", "X"), ("XYZ_Y", "Y"), ("XYZ_Z", "Z"))
_NAMES = ("SAMPLE_NAME", "SAMPLE_LOC", "SAMPLEID", "NAME", "PATCH", "SAMPLE_ID", "ID")
#: Fewest bands that make a spectrum; figures that no print gives: of spectra, and of L*a*b*.
FEWEST_BANDS = 8
_DARKEST, _BRIGHTEST = -0.05, 1.6
_MOST_LIGHT, _MOST_CHROMA = 130.0, 200.0


@dataclass(frozen=True, eq=False)
class Readings:
    """What was read of a chart.

    Attributes
    ----------
    where : the file's name
    names : of the patches as the device knows them; empty without any
    xyz : under D50, float64 (n, 3), Y of white 1
    """

    where: str
    names: tuple[str, ...]
    xyz: Floats


def read_readings(path: Path) -> Readings:
    """Read a file of readings, whatever of the open formats it is.

    Parameters
    ----------
    path : of the file

    Raises
    ------
    BadInput
        If there are none in it, or they cannot be, with one sentence that says why.
    """
    text, where = read_words(path), path.name
    if text.lstrip().startswith("<"):
        return _of_cxf(text, where)
    table = read_cgats(text, where) if "BEGIN_DATA" in text.upper() else _csv_table(text, where)
    return _of_table(table, where)


def _of_table(table: CgatsTable, where: str) -> Readings:
    found = next((name for name in _NAMES if name in table.fields), None)
    names: tuple[str, ...] = ()
    if found is not None:
        at = table.fields.index(found)
        names = tuple(row[at].strip() for row in table.rows)
    bands = [
        (int(match[1]), name) for name in table.fields if (match := _SPECTRAL.fullmatch(name))
        and 300 <= int(match[1]) <= 1100
    ]  # fmt: skip
    if len(bands) >= FEWEST_BANDS:
        bands.sort()
        figures = np.array([table.numbers(name, where=where) for _, name in bands]).T
        return Readings(where, names, _of_spectra([nm for nm, _ in bands], figures, where))
    lab = _columns(table, _LAB)
    if lab:
        figures = np.array([table.numbers(name, where=where) for name in lab]).T
        return Readings(where, names, _of_lab(figures, where))
    xyz = _columns(table, _XYZ)
    if xyz:
        figures = np.array([table.numbers(name, where=where) for name in xyz]).T
        # Devices tell XYZ with a white of 100.
        return Readings(where, names, _possible_xyz(figures / 100.0, where))
    raise BadInput(
        say("{where} has neither spectra nor L*a*b* nor XYZ; export one of them.", where=where)
    )


def _columns(table: CgatsTable, wanted: Sequence[Sequence[str]]) -> list[str]:
    found = [next((n for n in names if n in table.fields), None) for names in wanted]
    return [name for name in found if name is not None] if None not in found else []


def _of_spectra(wavelengths: Sequence[int], figures: Floats, where: str) -> Floats:
    if np.quantile(figures, 0.9) > 2.0:
        figures = figures / 100.0
    if figures.min() < _DARKEST or figures.max() > _BRIGHTEST:
        raise BadInput(_impossible(where))
    return np.maximum(xyz_of_spectra(wavelengths, figures), 0.0)


def _of_lab(figures: Floats, where: str) -> Floats:
    light, chroma = figures[:, 0], np.abs(figures[:, 1:])
    if light.min() < -1.0 or light.max() > _MOST_LIGHT or chroma.max() > _MOST_CHROMA:
        raise BadInput(_impossible(where))
    return np.maximum(xyz_of_lab(figures), 0.0)


def _possible_xyz(figures: Floats, where: str) -> Floats:
    if figures.min() < _DARKEST or figures.max() > _BRIGHTEST:
        raise BadInput(_impossible(where))
    return np.maximum(figures, 0.0)


def _impossible(where: str) -> str:
    return say(
        "{where} has figures that no print gives; look whether it is what was exported from the "
        "device.", where=where,
    )  # fmt: skip


def _csv_table(text: str, where: str) -> CgatsTable:
    """A table with a line of names first, its columns parted by comma, semicolon or tab."""
    lines = [line for line in text.splitlines() if line.strip()]
    parted = next((mark for mark in "\t;," if mark in lines[0]), ",")
    rows = [[cell.strip() for cell in row] for row in csv.reader(lines, delimiter=parted)]
    fields = tuple(cell.upper() for cell in rows[0])
    if len(fields) < 2 or len(rows) < 2:
        raise BadInput(
            say("{where} holds no readings; export them as CGATS text, CxF or a table.",
                where=where)
        )  # fmt: skip
    for at, row in enumerate(rows[1:], start=2):
        if len(row) != len(fields):
            raise BadInput(
                say("{where}: line {line} has {cells} cells for {fields} columns; export it again.",
                    where=where, line=at, cells=len(row), fields=len(fields))
            )  # fmt: skip
    return CgatsTable(fields, tuple(tuple(row) for row in rows[1:]))


def _of_cxf(text: str, where: str) -> Readings:
    """Objects of a CxF/X file (ISO 17972-1) with a spectrum or L*a*b* each."""
    # Entities could make much of little, and none are needed.
    if "<!DOCTYPE" in text or "<!ENTITY" in text:
        raise BadInput(say("{where} is no CxF file that can be read safely.", where=where))
    try:
        tree = ElementTree.parse(io.StringIO(text))
    except ElementTree.ParseError:
        raise BadInput(say("{where} is torn; export it again.", where=where)) from None
    objects = [one for one in tree.iter() if _plain(one.tag) == "Object"]
    step = next((float(one.get("Increment", "10")) for one in tree.iter()
                 if _plain(one.tag) == "WavelengthRange"), 10.0)  # fmt: skip
    names, found = [], []
    for one in objects:
        xyz = _cxf_colour(one, step, where)
        if xyz is not None:
            names.append(one.get("Name") or one.get("Id") or "")
            found.append(xyz)
    if not found:
        raise BadInput(
            say("{where} has no object with a spectrum or L*a*b*; export one of them.", where=where)
        )
    return Readings(where, tuple(names), np.array(found))


def _plain(tag: str) -> str:
    return tag.rpartition("}")[2]


def _cxf_colour(one: ElementTree.Element, step: float, where: str) -> Floats | None:
    for part in one.iter():
        kind = _plain(part.tag)
        if kind in ("ReflectanceSpectrum", "TransmittanceSpectrum") and part.text:
            bands = [number_in(word, where, kind) for word in part.text.split()]
            start = number_in(part.get("StartWL", "380"), where, "StartWL")
            at = [round(start + step * band) for band in range(len(bands))]
            if len(bands) < FEWEST_BANDS or step <= 0:
                raise BadInput(_impossible(where))
            return np.asarray(_of_spectra(at, np.array([bands]), where)[0])
    for part in one.iter():
        if _plain(part.tag) == "ColorCIELab":
            cells = {_plain(cell.tag): cell.text or "" for cell in part}
            lab = [number_in(cells.get(name, ""), where, name) for name in ("L", "A", "B")]
            return np.asarray(_of_lab(np.array([lab]), where)[0])
    return None
