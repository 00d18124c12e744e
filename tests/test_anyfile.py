"""Whatever is in a file, it is read, or refused in a sentence."""

from __future__ import annotations

import io
import json
import re
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import Sample, some
from farbe.files.cgats import read_cgats
from farbe.files.document import write_document
from farbe.files.drawnlines import read_lines
from farbe.files.jigparse import answer_to
from farbe.files.jobfile import open_job, save_job
from farbe.files.placetable import read_places
from farbe.files.printerfile import (
    read_condition,
    read_printer_file,
    write_condition,
    write_printer,
)
from farbe.files.receiverfile import ReceiverFile, read_receiver
from farbe.files.recipefile import read_recipe, write_recipe
from farbe.files.store import ArtStore
from farbe.files.table import read_measured, read_table
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.orders.columns import guessed
from farbe.orders.listfile import read_list
from farbe.plan.recipes import recipe_of
from farbe.press.device import as_cgats

#: What people, programs and cables put in place of a value.
ODD = (None, -1, 0, 1e308, -1e308, float("nan"), float("inf"), "", "x", [], {}, True, 10**30, "\0",
       "9" * 400, [[[]]], -0.0, 1e-320, "é\u202e", [1, 2, 3])  # fmt: skip
FIGURES = ("0", "-1", "1e300", "nan", "inf", "1e-300", "99999999999", "", "1,5", "--1", "٣")
BITS = ("\0", "\r", "\n", '"', ";", "\xff\xfe", "<", "\t", "%", ",", "#", "END")
LIST = """order;product;quantity;due;name
a1;lids;3;2026-12-01;Ida
a2;"lids; small";12;01.12.2026;Bo
"""
#: A ring, a line and a part of a ring, as short as can be.
DXF = (
    "0 SECTION 2 ENTITIES 0 CIRCLE 8 pockets 10 20.0 20 30.0 40 12.5 0 LINE 8 board 10 0.0 20 0.0 "
    "11 90.5 21 60.25 0 ARC 8 pockets 10 50.0 20 9.0 40 4.0 50 10.0 51 350.0 0 ENDSEC 0 EOF"
).replace(" ", "\n")
SVG = """<svg xmlns="http://www.w3.org/2000/svg" width="50mm" height="40mm" viewBox="0 0 50 40">
<g transform="translate(1 2) rotate(10)"><path d="M1 1 L30 1 C 40 1 40 20 30 30 A 5 5 0 0 1 20 30
Q 1 40 1 20 Z"/><rect x="3" y="3" width="9" height="7" rx="2"/><circle cx="20" cy="20" r="4"/>
</g></svg>"""


#: Draws a value of a strategy.
Draw = Callable[[st.SearchStrategy[Any]], Any]


def places(value: Any, way: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Ways to all that is in a document."""
    yield way
    if isinstance(value, dict | list):
        for at, held in value.items() if isinstance(value, dict) else enumerate(value):
            yield from places(held, (*way, at))


def put(value: Any, way: tuple[Any, ...], held: Any) -> Any:
    """A document with something else at one place."""
    if not way:
        return held
    at, *rest = way
    made = dict(value) if isinstance(value, dict) else list(value)
    made[at] = put(made[at], tuple(rest), held)
    return made


def damaged_document(draw: Draw, whole: bytes) -> bytes:
    """JSON in which one or two values are others."""
    document = json.loads(whole)
    for _ in range(draw(st.integers(1, 2))):
        way = draw(st.sampled_from([way for way in places(document) if way] or [()]))
        document = put(document, way, draw(st.sampled_from(ODD)))
    return json.dumps(document).encode()


def damaged_archive(draw: Draw, whole: bytes) -> bytes:
    """A job file whose document is damaged."""
    made = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(whole)) as was, zipfile.ZipFile(made, "w") as now:
        for name in was.namelist():
            data = was.read(name)
            now.writestr(name, damaged_document(draw, data) if name.endswith(".json") else data)
    return made.getvalue()


def damaged_text(draw: Draw, whole: bytes) -> bytes:
    """Text with figures that are others, and stretches that are gone or twice there."""
    text = whole.decode()
    for _ in range(draw(st.integers(1, 3))):
        figures = [found.span() for found in re.finditer(r"-?[0-9][0-9.,]*", text)]
        start = draw(st.integers(0, len(text)))
        stop = min(len(text), start + draw(st.sampled_from([0, 1, 5, 50])))
        bits = st.sampled_from([*BITS, text[start:stop] * 2])
        if figures and draw(st.booleans()):
            (start, stop), bits = draw(st.sampled_from(figures)), st.sampled_from(FIGURES)
        text = text[:start] + draw(bits) + text[stop:]
    return text.encode("utf-8", "surrogateescape")


Read = Callable[[Path, ArtStore], object]
#: By the end of a file's name: what reads it.
READERS: dict[str, Read] = {
    "drawing.svg": lambda path, _: read_lines(path),
    "jig.svg": lambda path, _: answer_to(path, path, "0.1"),
    "jig.dxf": lambda path, _: answer_to(path, path, "0.1"),
    "places.csv": lambda path, _: read_places(path),
    "measured.csv": lambda path, _: read_measured(path),
    "names.csv": lambda path, _: read_table(path),
    "orders.csv": lambda path, _: guessed(read_list(path).columns),
    "read.txt": lambda path, _: read_cgats(path.read_text(errors="replace"), path.name),
    "one.printer.json": lambda path, _: read_printer_file(path),
    "one.receiver.json": lambda path, _: read_receiver(path),
    "one.recipe.json": lambda path, _: read_recipe(path),
    "one.condition.json": read_condition,
    "one.farbe": lambda path, store: open_job(path, store),
}


def written(job: Faced, store: ArtStore, path: Path) -> bytes:
    """A sound file of a kind."""
    texts = {
        ".svg": lambda: SVG, ".dxf": lambda: DXF,
        "places.csv": lambda: "number;x;y;turn\n1;10;10;0\n2;40,5;10;90\n3;70;10;180\n",
        "measured.csv": lambda: "pocket;x;y\n1;0.1;0\n2;0,1;0\n3;0.1;0.05\n",
        "names.csv": lambda: 'name;art\nIda;lid.png\n"A; B";c.png\n',
        "orders.csv": lambda: LIST,
        "read.txt": lambda: as_cgats(["A1", "A2"], [[5, 6, 7], [60, 65, 50]], spectral=True),
    }  # fmt: skip
    for end, text in texts.items():
        if path.name.endswith(end):
            return text().encode()
    write = {
        "one.printer.json": lambda: write_printer(job.printer, store, path),
        "one.receiver.json": lambda: write_document(ReceiverFile(receiver=job.receiver), path),
        "one.recipe.json": lambda: write_recipe(recipe_of(job, "Mine"), path),
        "one.condition.json": lambda: write_condition(job.printer.conditions[0], store, path),
        "one.farbe": lambda: save_job(job.job, store, path),
    }
    write[path.name]()
    return path.read_bytes()


@pytest.mark.long
@settings(max_examples=25)
@given(data=st.data())
@pytest.mark.parametrize(
    "name", some(READERS, *(name for name in READERS if name[-4:] not in (".svg", ".dxf")))
)
def test_any_file_is_read_or_refused_in_a_sentence(
    sample: Sample, name: str, data: st.DataObject
) -> None:
    job, store = sample("jar-lids")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / name
        whole = written(job, store, path)
        path.write_bytes(whole)
        # Sound, it is read.
        READERS[name](path, store)
        damaged = {".json": damaged_document, ".farbe": damaged_archive}.get(
            path.suffix, damaged_text
        )
        path.write_bytes(damaged(data.draw, whole))
        try:
            READERS[name](path, store)
        except BadInput as error:
            said = str(error)
            assert said.strip() and len(said) < 700 and "Error" not in said
