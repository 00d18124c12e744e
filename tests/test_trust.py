"""Files of strangers: what reads them sees nothing else, takes little, and ends with its own."""

from __future__ import annotations

import importlib.util
import io
import json
import os
import socket
import subprocess
import sys
import time
import zipfile
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import tifffile
from PIL import Image

from conftest import small_art, small_job
from farbe.art.limited import HELPERS, ask
from farbe.art.patience import Moment, worked
from farbe.art.profiles import shipped_profile
from farbe.art.read import read_artwork
from farbe.files.jobfile import open_job, save_job
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.lettering import shipped_font
from farbe.leftover import clear_left_over
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.text import Table, TextBox, TypeFace
from farbe.plan.newjob import job_taken
from farbe.plan.recipes import recipe
from farbe.press.client import press_of, socket_path, start_press
from farbe.queue.base import transaction
from farbe.queue.store import Queue, State

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


BUSY = """
import time

def answer_to(path, folder, *words):
    began = time.process_time()
    while time.process_time() - began < float(words[0]):
        pass
    return {"done": True}
"""


@pytest.mark.long
def test_only_work_counts_where_others_keep_the_machine_busy(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "busy.py").write_text(BUSY)
    monkeypatch.setenv("PYTHONPATH", str(tmp_path))
    (tmp_path / "art.png").write_bytes(b"x")
    HELPERS.end()
    others = [
        subprocess.Popen([sys.executable, "-c", "while True: pass"], start_new_session=True)
        for _ in range(2 * (os.cpu_count() or 1))
    ]
    try:
        # It has less than half of a processor: by the clock it takes longer than it may.
        assert ask("busy", tmp_path / "art.png", tmp_path, 1.0, "0.6") == {"done": True}
        with pytest.raises(BadInput, match="takes too long"):
            ask("busy", tmp_path / "art.png", tmp_path, 0.2, "60")
    finally:
        for other in others:
            other.kill()
            other.wait()
        HELPERS.end()


@pytest.mark.parametrize(
    ("clock", "taken", "work", "wanted"),
    [
        # Alone; both processors at once; of two that want each processor; mostly waiting.
        (10.0, 10.0, 10.0, 10.0),
        (10.0, 20.0, 20.0, 10.0),
        (10.0, 20.0, 5.0, 2.5),
        (10.0, 3.0, 3.0, 10.0),
    ],
)
def test_time_is_that_of_a_machine_that_does_nothing_else(
    clock: float, taken: float, work: float, wanted: float
) -> None:
    begun, ended = Moment(5.0, 2, 100.0), Moment(5.0 + clock, 2, 100.0 + taken)
    assert worked(begun, ended, work) == pytest.approx(wanted)


def processes() -> str:
    return subprocess.run(
        ["ps", "-e", "-o", "args"], capture_output=True, text=True, check=True
    ).stdout  # fmt: skip


def bombs(folder: Path) -> list[Path]:
    """Small files that ask for much."""
    steps = io.BytesIO()
    Image.new("RGB", (64, 64), (90, 20, 30)).save(steps, "JPEG", progressive=True)
    data = bytearray(steps.getvalue())
    # The frame says 30,000 by 30,000: all coefficients are kept until the last scan.
    frame = data.index(b"\xff\xc2")
    data[frame + 5 : frame + 9] = (30_000).to_bytes(2, "big") * 2
    (folder / "steps.jpg").write_bytes(data)
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


# each found case


def small_store(tmp_path: Path) -> tuple[ArtStore, Job]:
    store = ArtStore(tmp_path / "store")
    return store, small_job(store, small_art(tmp_path / "art.png")).job


def with_member(path: Path, target: Path, change: Callable[[dict[str, Any]], object]) -> Path:
    """A job file whose description was changed."""
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(target, "w") as new:
        for name in old.namelist():
            data = old.read(name)
            if name == "job.json":
                document = json.loads(data)
                change(document["job"])
                data = json.dumps(document).encode()
            new.writestr(name, data)
    return target


def test_job_files_that_are_locked_damaged_or_cross_themselves(tmp_path: Path) -> None:
    store, job = small_store(tmp_path)
    good = tmp_path / "good.farbe"
    save_job(job, store, good)
    data = bytearray(good.read_bytes())
    # A flag in both headers of each member says that it is encrypted.
    locked, at = bytearray(data), 0
    for mark, place in ((b"PK\3\4", 6), (b"PK\1\2", 8)):
        at = 0
        while (at := locked.find(mark, at)) >= 0:
            locked[at + place] |= 1
            at += 4
    (tmp_path / "locked.farbe").write_bytes(locked)
    half = data.find(b'"job"') + 200
    data[half] ^= 255
    (tmp_path / "damaged.farbe").write_bytes(data)
    bow = [[[0, 0], [20, 20], [20, 0], [0, 20]]]
    with_member(good, tmp_path / "crossing.farbe", lambda j: j["piece"].update(
        shape={"kind": "outline", "rings": bow}
    ))  # fmt: skip
    with_member(good, tmp_path / "huge.farbe", lambda j: j["piece"].update(height=10**300))
    for name, words in (
        ("locked", "locked with a password"), ("damaged", "not a whole job file"),
        ("crossing", "crosses itself at 10"), ("huge", "Piece height is larger"),
    ):  # fmt: skip
        with pytest.raises(BadInput, match=words) as told:
            open_job(tmp_path / f"{name}.farbe", ArtStore(tmp_path / name))
        assert "\n" not in str(told.value) and len(str(told.value)) < 200
    with pytest.raises(BadInput, match="a device or a pipe"):
        open_job(Path("/dev/zero"), store)


def test_pictures_that_no_job_takes_and_names_that_no_text_is(tmp_path: Path) -> None:
    store, _ = small_store(tmp_path)
    Image.new("L", (4000, 30)).save(tmp_path / "long.png", dpi=(5, 5))
    with pytest.raises(BadInput, match=r"long\.png comes out 20\.3 × 0\.2 m"):
        store.add_artwork(tmp_path / "long.png")
    many = np.zeros((9, 9, 70), np.uint8)
    tifffile.imwrite(
        tmp_path / "many.tif",
        many,
        photometric="separated",
        planarconfig="contig",
        extrasamples=[0] * 66,
    )
    with pytest.raises(BadInput, match=r"many\.tif has 66 plates, more than 60"):
        store.add_artwork(tmp_path / "many.tif")
    picture = (tmp_path / "art.png").read_bytes()
    for name in (b"caf\xe9.png", "ö".encode() * 123 + b".png"):
        path = tmp_path / os.fsdecode(name)
        path.write_bytes(picture)
        art = store.add_artwork(path)
        assert art.file_name.endswith(".png") and len(art.file_name) <= 80
        job = job_taken(art, recipe("dark opaque piece"))
        save_job(job, store, tmp_path / "named.farbe")
        assert open_job(tmp_path / "named.farbe", ArtStore(tmp_path / "other")) == job


def test_profiles_with_odd_bytes_and_files_that_are_gone(tmp_path: Path) -> None:
    store, job = small_store(tmp_path)
    odd = bytearray(shipped_profile())
    odd[16:20] = b"CM\x9bK"
    (tmp_path / "odd.icc").write_bytes(odd)
    with pytest.raises(BadInput, match=r"odd\.icc is not an ICC profile"):
        store.add_profile(tmp_path / "odd.icc")
    (tmp_path / "good.icc").write_bytes(shipped_profile())
    digest = store.add_profile(tmp_path / "good.icc")
    made = job.replace(conversion=job.conversion.replace(profile=digest))
    store.path(digest).unlink()
    with pytest.raises(BadInput, match="The printer's profile is gone"):
        store.profile(Faced(made))
    (tmp_path / "font.ttf").write_bytes(shipped_font(TypeFace.MEDIUM))
    font = ArtStore(store.folder).add_font(tmp_path / "font.ttf")
    store.path(font).unlink()
    box = TextBox(text="x", width=9, height=2, face=TypeFace.OWN, font=font)
    with pytest.raises(BadInput, match="The font of a text is gone"):
        store.font(box)


def test_a_table_of_twenty_thousand_rows_is_saved_and_opened(tmp_path: Path) -> None:
    store, job = small_store(tmp_path)
    rows = tuple((f"Name of number {i}, of the north side", f"{i}") for i in range(20_000))
    table = Table(file_name="names.csv", columns=("name", "number"), rows=rows)
    made = Faced(job).replace(table=table).job
    save_job(made, store, tmp_path / "large.farbe")
    assert open_job(tmp_path / "large.farbe", ArtStore(tmp_path / "other")) == made


def test_one_wrong_row_of_the_queue_is_set_aside(tmp_path: Path) -> None:
    queue = Queue(tmp_path / "queue")
    numbers = [queue.add(f"Job {i}", f"token-{i}", pieces=3) for i in range(4)]
    for field, value in (("pieces", "many"), ("place", "x"), ("drive", "a horse"), ("step", 1e400)):
        with transaction(queue.folder) as base:
            base.execute(f"UPDATE entry SET {field} = ? WHERE number = ?", (value, numbers[1]))
        found = {entry.number: entry for entry in queue.entries()}
        assert found.keys() | {numbers[1]} == set(numbers)
        aside = queue.entry(numbers[1])
        assert aside.state is State.ASIDE and "record was damaged" in aside.note
        with queue.begin(numbers[0]) as claim:
            assert claim.entry.name == "Job 0"
            queue.stop(numbers[0], "enough")
        with transaction(queue.folder) as base:
            base.execute("UPDATE entry SET state = 'waiting'")
    queue.entries()
    queue.cancel(numbers[1])
    for number in (10**30, -1, 0):
        with pytest.raises(BadInput, match="There is no job"):
            queue.entry(number)


def test_a_press_without_a_place_and_requests_that_are_none(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "file").write_text("no folder")
    with pytest.raises(BadInput, match="file"):
        start_press(tmp_path / "file" / "spool")
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path))
    (tmp_path / "farbe").mkdir(mode=0o777)
    (tmp_path / "farbe").chmod(0o777)
    with pytest.raises(BadInput, match="is not yours alone"):
        socket_path(tmp_path / "spool")
    (tmp_path / "farbe").chmod(0o700)
    spool = tmp_path / "spool"
    with press_of(spool):
        for line in (b'{"do": "height", "mm": NaN}\n', b'{"do": "height", "mm": 1e999}\n',
                     b"[]\n", b"{\n", b"x" * 100_000 + b"\n"):  # fmt: skip
            with socket.socket(socket.AF_UNIX) as own:
                own.connect(str(socket_path(spool)))
                own.sendall(line)
                assert json.loads(own.makefile().readline())["status"] == "refused"
    with press_of(spool) as press:
        assert press.ask(do="status")["head"] is None
        press.ask(do="quit")


def test_folders_that_kills_left_are_cleared_away(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    names = ("farbe-old", "farbe-new", "other", f"farbe-{os.getuid()}")
    for name in names:
        (tmp_path / name).mkdir()
        (tmp_path / name / "file").write_text("x")
    (tmp_path / "farbe-link").symlink_to(tmp_path / "other")
    for name in names:
        if name != "farbe-new":
            os.utime(tmp_path / name, (1, 1))
    assert clear_left_over() == 1
    assert {path.name for path in tmp_path.iterdir()} == {*names[1:], "farbe-link"}


@pytest.mark.long
def test_changed_files_of_every_kind_are_read_or_refused(tmp_path: Path) -> None:
    """A part of the campaign; ``scripts/fuzz.py`` runs as many as are wanted."""
    path = Path(__file__).parents[1] / "scripts" / "fuzz.py"
    spec = importlib.util.spec_from_file_location("fuzz", path)
    assert spec is not None and spec.loader is not None
    fuzz = importlib.util.module_from_spec(spec)
    sys.modules["fuzz"] = fuzz
    spec.loader.exec_module(fuzz)
    every = list(fuzz.findings(260, 3, tmp_path))
    wrong = [(kind, found) for kind, found in every if found not in ("read", "refused")]
    assert not wrong
    refused = Counter(found for _, found in every)
    assert refused["refused"] > 100 and refused["read"] > 20
