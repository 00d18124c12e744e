"""Files of strangers: what reads them sees nothing else, takes little, and ends with its own."""

from __future__ import annotations

import os
import subprocess
import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from farbe.art.limited import HELPERS, ask
from farbe.art.read import read_artwork
from farbe.model.base import BadInput

SNOOP = """
import socket
from pathlib import Path

def answer_to(path, folder, *words):
    said = {}
    for name, act in {
        "itself": lambda: path.read_bytes(),
        "another": lambda: Path(words[0]).read_bytes(),
        "home": lambda: list(Path(words[0]).parent.iterdir()),
        "beside": lambda: (path.parent / "made").write_text("x"),
        "own folder": lambda: (folder / "made").write_text("x"),
        "network": lambda: socket.socket(),
        "memory": lambda: bytearray(2_000_000_000),
        "system": lambda: Path("/etc/passwd").read_bytes(),
    }.items():
        try:
            act()
            said[name] = True
        except (OSError, MemoryError):
            said[name] = False
    return said
"""


@pytest.fixture
def snoop(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> str:
    """A reader that looks around; helpers are started anew, so that they find it."""
    (tmp_path / "lib").mkdir()
    (tmp_path / "lib" / "snoop.py").write_text(SNOOP)
    monkeypatch.setenv("PYTHONPATH", str(tmp_path / "lib"))
    HELPERS.end()
    return "snoop"


def test_a_reader_sees_its_file_and_nothing_else(tmp_path: Path, snoop: str) -> None:
    inside = tmp_path / "inside"
    inside.mkdir()
    (inside / "art.png").write_bytes(b"x")
    (inside / "secret.txt").write_text("secret")
    folder = tmp_path / "into"
    folder.mkdir()
    # The helper has the reader loaded before it forks, as it has its own.
    found = ask(snoop, inside / "art.png", folder, 9.0, str(inside / "secret.txt"))
    HELPERS.end()
    assert found == {
        "itself": True, "another": False, "home": False, "beside": False, "own folder": True,
        "network": False, "memory": False, "system": True,
    }  # fmt: skip
    assert not (inside / "made").exists()


def test_what_takes_too_long_ends_with_all_that_it_started(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Ghostscript in a loop is the grandchild of whoever asked."""
    monkeypatch.setattr("farbe.art.limited.SMALL_SECONDS", 1.0)
    path = tmp_path / "loop.eps"
    path.write_text("%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 100 100\n{1 pop} loop\n")
    with pytest.raises(BadInput, match=r"loop\.eps takes too long"):
        read_artwork(path)
    until = time.monotonic() + 5
    while str(path) in (told := processes()):
        assert time.monotonic() < until, told
        time.sleep(0.05)


def processes() -> str:
    return subprocess.run(
        ["ps", "-e", "-o", "args"], capture_output=True, text=True, check=True
    ).stdout  # fmt: skip


def bombs(folder: Path) -> list[Path]:
    """Small files that ask for much."""
    Image.MAX_IMAGE_PIXELS = None
    Image.new("L", (30_000, 30_000), 90).save(folder / "steps.jpg", progressive=True, quality=10)
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="900mm" height="900mm">'
    filters = (
        '<filter id="f"><feTurbulence baseFrequency="0.1" numOctaves="90"/>'
        '<feGaussianBlur stdDeviation="500"/></filter>'
    )
    nested = '<g filter="url(#f)">' * 60 + '<rect width="700" height="700"/>' + "</g>" * 60
    (folder / "filters.svg").write_text(f"{head}{filters}{nested}</svg>")
    uses = "".join(f'<g id="a{i}">' + f'<use href="#a{i - 1}"/>' * 10 + "</g>" for i in range(1, 9))
    first = '<g id="a0"><rect width="9" height="9"/></g>'
    (folder / "uses.svg").write_text(f'{head}<defs>{first}{uses}</defs><use href="#a8"/></svg>')
    return sorted(folder.iterdir())


def test_small_files_that_ask_for_much_are_refused_in_one_sentence(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("farbe.art.limited.SMALL_SECONDS", 2.0)
    for path in bombs(tmp_path):
        assert path.stat().st_size < 10_000_000
        begun = time.monotonic()
        with pytest.raises(BadInput) as told:
            read_artwork(path)
        assert path.name in str(told.value) and "\n" not in str(told.value)
        # Of a machine that does nothing else, two seconds.
        assert time.monotonic() - begun < 30


def test_devices_and_links_are_no_pictures(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe.png")
    for path in (tmp_path / "pipe.png", Path("/dev/zero")):
        with pytest.raises(BadInput, match="a device or a pipe"):
            read_artwork(path)
    (tmp_path / "link.png").symlink_to(tmp_path / "nothing.png")
    with pytest.raises(BadInput, match="is not there"):
        read_artwork(tmp_path / "link.png")
    Image.fromarray(np.full((5, 4, 3), 9, np.uint8)).save(tmp_path / "real.png")
    (tmp_path / "fine.png").symlink_to(tmp_path / "real.png")
    assert read_artwork(tmp_path / "fine.png").width == 4
