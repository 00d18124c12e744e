"""Shared fixtures; the platform is offscreen and nothing of the user's own is touched."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from farbe.art.artwork import Artwork, Space
from farbe.files.store import ArtStore
from farbe.layout.pockets import centred_jig
from farbe.model.base import BadInput
from farbe.model.jig import Board, Jig
from farbe.model.job import Job
from farbe.model.layer import COLOUR, VARNISH_OVER, WHITE_UNDER
from farbe.model.piece import Circle, Piece, Reader, Surface
from farbe.model.printer import Printer
from farbe.model.receiver import Receiver
from farbe.press.client import PressLine
from farbe.samples.jobs import lid_job


@pytest.fixture(autouse=True)
def own_folders(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Settings, autosaves, queue and press of a test stay in its own folder, and end with it."""
    monkeypatch.setenv("FARBE_CONFIG", str(tmp_path / "config"))
    monkeypatch.setenv("FARBE_STATE", str(tmp_path / "state"))
    monkeypatch.setenv("FARBE_DATA", str(tmp_path / "data"))
    yield
    if (tmp_path / "state" / "press").is_dir():
        with contextlib.suppress(BadInput), PressLine(tmp_path / "state" / "press") as press:
            press.ask(do="quit")


@pytest.fixture
def store(tmp_path: Path) -> ArtStore:
    return ArtStore(tmp_path / "store")


def small_art(path: Path, width: int = 60, height: int = 40) -> Path:
    """A picture that is unlike its mirror: colours, white, soft alpha, an empty corner."""
    y, x = np.mgrid[0:height, 0:width]
    alpha = np.where((x - width * 0.45) ** 2 + (y - height / 2) ** 2 < (height * 0.45) ** 2, 255, 0)
    alpha[: height // 3, : width // 3] = 128
    pixels = np.dstack([x * 255 // width, y * 255 // height, 255 - x * 255 // width, alpha])
    pixels[height // 2 : height // 2 + 6, width // 3 : width // 2, :3] = 255
    Image.fromarray(pixels.astype(np.uint8)).save(path, dpi=(150, 150))
    return path


@pytest.fixture
def art_file(tmp_path: Path) -> Path:
    return small_art(tmp_path / "art.png")


@pytest.fixture
def job(store: ArtStore, art_file: Path) -> Job:
    """Twelve small tokens at uneven resolution: quick, and nothing divides evenly."""
    shape = Circle(diameter=11.3)
    jig = Jig(
        name="Tokens",
        board=Board(width=78, height=56),
        first_x=0,
        first_y=0,
        columns=4,
        rows=3,
        gap_x=4.7,
        gap_y=3.9,
    )
    return Job(
        name="Tokens",
        piece=Piece(name="token", shape=shape, height=3, surface=Surface(colour="#1d3b31")),
        reader=Reader.FACE,
        printer=Printer(
            name="Small", bed_width=80, bed_height=60, max_piece_height=50, dpi_x=150, dpi_y=210
        ),
        artworks=(store.add_artwork(art_file),),
        stack=(WHITE_UNDER, COLOUR, VARNISH_OVER),
        jig=centred_jig(jig, shape),
        receiver=Receiver(name="Plain"),
    )


@pytest.fixture(scope="session")
def lids(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Job, ArtStore]]:
    """The sample job; its artwork is drawn once."""
    store = ArtStore(tmp_path_factory.mktemp("lids"))
    yield lid_job(store), store


def artwork_of(alpha: np.ndarray, colour: tuple[int, int, int] = (200, 60, 30)) -> Artwork:
    """One colour under an alpha plane."""
    pixels = np.empty((*alpha.shape, 4), np.uint8)
    pixels[..., :3] = colour
    pixels[..., 3] = alpha
    return Artwork(pixels, Space.RGB, None, None)
