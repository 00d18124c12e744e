"""Tables as office programs write them, and as they should not be."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from farbe.files.table import read_measured, read_table
from farbe.model.base import BadInput


def written(folder: Path, data: bytes) -> Path:
    path = folder / "names.csv"
    path.write_bytes(data)
    return path


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
@pytest.mark.parametrize("separator", [",", ";", "\t"])
@pytest.mark.parametrize("end", ["\n", "\r\n"])
def test_every_usual_way_of_writing_is_read(
    tmp_path: Path, encoding: str, separator: str, end: str
) -> None:
    lines = [("name", "jar, size"), ("Björn “Bo”", 'say "honey"'), ("Élodie", f"a{separator}b"),
             ("", ""), ("two\nlines", "x")]  # fmt: skip
    text = end.join(
        separator.join('"' + field.replace('"', '""') + '"' for field in line) for line in lines
    )
    table = read_table(written(tmp_path, (text + end).encode(encoding)))
    assert table.columns == ("name", "jar, size")
    assert table.rows == (lines[1], lines[2], lines[4])


@pytest.mark.parametrize(
    ("data", "told"),
    [
        (b"", "is empty"),
        (b"name,size\n", "no rows"),
        (b"name,,size\na,b,c\n", "column 2 has no name"),
        (b"name,name\na,b\n", "same name"),
        (b"name,size\na,b\nc\n", "line 3: 1 fields"),
        (b'name,size\n"a,b\nc,d\n', "line 2: a quote"),
        (b'name,size\n"a"x,b\n', "line 2: a quote"),
        (b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR", "not text"),
        (b"name\n" + b"x" * 600 + b"\n", "names.csv"),
        (b"name\n" + b"x\n" * 20_001, "more than 20000"),
    ],
)
def test_bad_tables_end_in_one_sentence(tmp_path: Path, data: bytes, told: str) -> None:
    with pytest.raises(BadInput, match=told) as error:
        read_table(written(tmp_path, data))
    assert "\n" not in str(error.value)


@given(st.binary(max_size=300))
def test_no_bytes_bring_a_traceback(tmp_path_factory: pytest.TempPathFactory, data: bytes) -> None:
    path = tmp_path_factory.getbasetemp() / "fuzz.csv"
    path.write_bytes(data)
    try:
        table = read_table(path)
    except BadInput:
        return
    assert table.rows and all(len(row) == len(table.columns) for row in table.rows)


def test_measured_places(tmp_path: Path) -> None:
    found = read_measured(written(tmp_path, b"Pocket;X;Y\n3;10,5;20\n1;0;-1.25\n"))
    assert [(p.pocket, p.x, p.y) for p in found.points] == [(3, 10.5, 20), (1, 0, -1.25)]
    for data, told in (
        (b"pocket,x\n1,2\n", "no column named y"),
        (b"pocket,x,y\n1,2,three\n", "row 1"),
        (b"pocket,x,y\n1,2,3\n1,2,3\n", "measured twice"),
        (b"pocket,x,y\n1,2,nan\n", "row 1"),
    ):
        with pytest.raises(BadInput, match=told):
            read_measured(written(tmp_path, data))
