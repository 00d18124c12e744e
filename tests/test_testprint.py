"""Test prints on the press, readings, and the watched folder."""

from __future__ import annotations

import errno
import os
import shutil
from collections import Counter
from collections.abc import Callable, Generator
from itertools import islice
from pathlib import Path

import numpy as np
import pytest

from conftest import small_art, some
from farbe.art.profiles import shipped_profile
from farbe.atomic import writing_failed
from farbe.edits.artwork import with_only
from farbe.files.recipefile import lent, read_recipe, with_profile, write_recipe
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.layer import COLOUR, VARNISH_OVER, WHITE_UNDER
from farbe.model.printer import Printer
from farbe.model.receiver import Split
from farbe.model.roll import Roll
from farbe.model.treatment import Choke, Ease, Holes, Limit
from farbe.names import safe_name
from farbe.plan.printers import ROLL_PRINTER
from farbe.plan.receivers import OPEN_PLATES, RECEIVERS
from farbe.plan.recipes import recipe, recipe_of, with_recipe
from farbe.press.machine import SCALE, TestPress
from farbe.queue.taking import by_recipe
from farbe.queue.watch import Taken, to_folder, watch
from farbe.testprint.chart import ChartKind
from farbe.testprint.kinds import CHOKES, HITS, SIDE, make_chart
from farbe.testprint.reading import with_reading
from farbe.testprint.write import write_test_print

PRINTER = Printer(
    name="Proofer", bed_width=300, bed_height=120, max_piece_height=20, dpi_x=300, dpi_y=360
)


def printed(kind: ChartKind, folder: Path, printer: Printer = PRINTER) -> np.ndarray:
    chart = make_chart(kind, printer, OPEN_PLATES, shipped_profile())
    ticket = write_test_print(chart, printer, OPEN_PLATES, folder)
    assert all(ml >= 0 for ml in ticket.runs[0].ink_ml.values())
    press = TestPress()
    press.take(folder)
    press.print_run("guide", lambda *_: None)
    return press.picture().astype(int)


def patch(picture: np.ndarray, place: int) -> np.ndarray:
    """The middle of a patch of the first row."""
    x, y = 8 + SIDE / 2 + place * (SIDE + 4), 120 - 8 - SIDE / 2
    rows = slice(round((y - 2) * SCALE), round((y + 2) * SCALE))
    return picture[rows, round((x - 2) * SCALE) : round((x + 2) * SCALE)]


@pytest.mark.parametrize("kind", some(ChartKind, ChartKind.WHITE, ChartKind.KERB))
def test_every_test_print_prints(kind: ChartKind, tmp_path: Path) -> None:
    for receiver in RECEIVERS[1:3]:
        chart = make_chart(kind, PRINTER, receiver, shipped_profile())
        assert len({c for film in chart.films for c in film.channels}) == sum(
            len(film.channels) for film in chart.films
        )
    picture = printed(kind, tmp_path)
    assert np.abs(picture - picture[5, -5]).max(axis=2).astype(bool).mean() > 0.004


@pytest.mark.long
def test_inks_lie_in_the_order_of_their_channels(tmp_path: Path) -> None:
    picture = printed(ChartKind.INKS, tmp_path)
    cyan, magenta, yellow, black, white = (patch(picture, i).mean(axis=(0, 1)) for i in range(5))
    assert cyan.argmin() == 0 and magenta.argmin() == 1 and yellow.argmin() == 2
    assert black.max() < 60 and white.min() > 200


def test_white_shows_beside_the_colour_as_far_as_it_is_not_choked(tmp_path: Path) -> None:
    """The ladder's first step has white to the edge of the colour, the last is well inside."""
    chart = make_chart(ChartKind.CHOKE, PRINTER, OPEN_PLATES, shipped_profile())
    whites = [m.plate for m in chart.marks if m.channel == "White"]
    colours = [m.plate for m in chart.marks if m.channel == "Magenta"]
    assert (whites[0] == colours[0]).all() and chart.steps == CHOKES
    areas = [float(plate.sum(dtype=np.int64)) for plate in whites]
    assert areas == sorted(areas, reverse=True) and areas[-1] < 0.85 * areas[0]


def test_hits_add_up_from_step_to_step(tmp_path: Path) -> None:
    chart = make_chart(ChartKind.VARNISH, PRINTER, OPEN_PLATES, shipped_profile())
    laid = [0] * len(HITS)
    places = sorted({m.x for m in chart.marks if m.channel == "Varnish"})
    for film in chart.films[1:]:
        for mark in chart.marks:
            if mark.channel == film.channels[0]:
                laid[places.index(mark.x)] += film.hits
    assert tuple(laid) == HITS


def test_unfit_printers_are_told(tmp_path: Path) -> None:
    tiny = PRINTER.replace(bed_width=40, bed_height=40)
    with pytest.raises(BadInput, match="too small"):
        make_chart(ChartKind.CHOKE, tiny, OPEN_PLATES, shipped_profile())
    bare = PRINTER.replace(inks=PRINTER.inks[:4])
    with pytest.raises(BadInput, match="no ink for white"):
        make_chart(ChartKind.WHITE, bare, OPEN_PLATES, shipped_profile())


def test_readings_go_into_the_layers() -> None:
    stack = (WHITE_UNDER.replace(treatments=(Choke(by=0.1), Ease())), COLOUR, VARNISH_OVER)
    read = with_reading(stack, ChartKind.CHOKE, 0.18)
    assert read[0].choke == 0.18 and read[0].treatments[1:] == (Ease(),) and read[1:] == stack[1:]
    assert Limit(percent=80) in with_reading(stack, ChartKind.WHITE, 80)[0].treatments
    assert with_reading(stack, ChartKind.EASE, 25)[0].treatments[1].least == 25  # type: ignore[union-attr]
    assert with_reading(stack, ChartKind.VARNISH, 6)[2].hits == 6
    for kind, value, words in (
        (ChartKind.INKS, 1.0, "only from"),
        (ChartKind.WHITE, 140.0, "Percent"),
        (ChartKind.CHOKE, -1.0, "By"),
        (ChartKind.VARNISH, float("nan"), "Hits"),
        (ChartKind.VARNISH, float("inf"), "Hits"),
    ):
        with pytest.raises(BadInput, match=words):
            with_reading(stack, kind, value)
    with pytest.raises(BadInput, match="no layer of varnish"):
        with_reading(stack[:2], ChartKind.VARNISH, 3)


def test_a_watched_folder_makes_hand_offs(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    inbox, out = tmp_path / "in", tmp_path / "out"
    inbox.mkdir()
    small_art(inbox / "mint.png")
    (inbox / "broken.png").write_bytes(b"\x89PNG\r\n\x1a\nnothing")
    (inbox / "notes.txt").write_text("no artwork")
    late = inbox / "late.png"
    found: list[Taken] = []
    looks = 0

    def wait(_: float) -> None:
        nonlocal looks
        looks += 1
        if looks == 1:
            # Half of a file that is still being copied.
            late.write_bytes(small_art(tmp_path / "late.png", 80, 50).read_bytes()[:200])
        elif looks == 2:
            late.write_bytes((tmp_path / "late.png").read_bytes())
            os.utime(late, ns=(1, 1))

    for taken in watch(
        inbox, lambda a: with_only(job, a).job, to_folder(out, store), store, wait=wait
    ):
        if taken is not None:
            found.append(taken)
        if looks == 7:
            break
    assert {(t.name, t.failed) for t in found} == {
        ("mint.png", False), ("broken.png", True), ("late.png", False),
    }  # fmt: skip
    assert (out / "mint" / "ticket.json").is_file() and (out / "late" / "ticket.json").is_file()
    assert (inbox / "done" / "mint.png").is_file()
    assert (
        "broken.png" in (inbox / "failed" / "broken.png.txt").read_text()
        or "damaged" in (inbox / "failed" / "broken.png.txt").read_text()
    )
    assert [p.name for p in inbox.iterdir() if p.is_file()] == ["notes.txt"]


@pytest.mark.long
def test_a_watched_folder_overwrites_nothing_and_outlives_what_happens_to_it(
    job: Faced, store: ArtStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The same name twice, names that lead out, a full disk, a writer, and the folder itself."""
    inbox, out = tmp_path / "in", tmp_path / "out"
    inbox.mkdir()
    art = small_art(tmp_path / "art.png").read_bytes()
    for name in ("mint.png", "...png", "mint.PNG", "later.png"):
        (inbox / name).write_bytes(art)
    (inbox / "folder.png").mkdir()
    found: list[Taken] = []
    full = {"later": 3}
    plain, writer = to_folder(out, store), (inbox / "open.png").open("wb")
    writer.write(art), writer.flush()

    def use(made: Job, name: str) -> str:
        if full.get(name, 0):
            full[name] -= 1
            raise writing_failed(out / name, OSError(errno.ENOSPC, "full"))
        if name == "odd":
            raise ZeroDivisionError
        return plain(made, name)

    def more() -> None:
        (inbox / "mint.png").write_bytes(art)
        (inbox / "odd.png").write_bytes(art)
        inbox.rename(tmp_path / "elsewhere")

    acts = {6: more, 9: lambda: (tmp_path / "elsewhere").rename(inbox), 14: writer.close}

    def wait(_: float) -> None:
        nonlocal looks
        looks += 1
        acts.get(looks, lambda: None)()

    looks = 0
    monkeypatch.setattr("farbe.queue.watch.PATIENCE", 2)
    for taken in watch(inbox, lambda a: with_only(job, a).job, use, store, wait=wait):
        found += [taken] if taken is not None else []
        if looks == 20:
            break
    assert Counter((t.name, t.failed, t.waits) for t in found) == {
        ("mint.png", False, False): 2, ("mint.PNG", False, False): 1,
        ("later.png", False, True): 1, ("later.png", False, False): 1,
        ("odd.png", True, False): 1, ("open.png", False, False): 1, ("", False, True): 1,
        ("", False, False): 1,
    }  # fmt: skip
    made = sorted(p.name for p in out.iterdir())
    assert made == ["later", "mint", "mint (2)", "mint (3)", "open"]
    assert all((out / name / "ticket.json").is_file() for name in made)
    assert sorted(p.name for p in (inbox / "done").iterdir()) == [
        "later.png", "mint (2).png", "mint.PNG", "mint.png", "open.png",
    ]  # fmt: skip
    assert "fault of Farbe" in (inbox / "failed" / "odd.png.txt").read_text()
    assert sorted(p.name for p in inbox.iterdir()) == [
        "...png", "done", "failed", "folder.png",
    ]  # fmt: skip
    assert safe_name("..") == "unnamed" and safe_name("a/../b\x00c ") == "a-..-b-c"
    assert len(safe_name("ö" * 300 + ".png").encode()) <= 180


def test_of_two_that_watch_a_folder_one_takes_what_is_there(
    job: Faced, store: ArtStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Each file once, also while the other one works on it; who is left goes on."""
    monkeypatch.setattr("farbe.queue.watch.LOOK", 0.0)
    inbox, made = tmp_path / "in", list[str]()
    inbox.mkdir()

    def watched(use: Callable[[Job, str], str]) -> Generator[Taken | None, None, None]:
        return watch(inbox, lambda a: with_only(job, a).job, use, store)

    def of_the_other(_: Job, name: str) -> str:
        made.append(f"{name} by the other")
        return name

    def of_one(_: Job, name: str) -> str:
        found.extend(one for one in islice(other, 5) if one is not None)
        made.append(f"{name} by one")
        return name

    found, one, other = list[Taken](), watched(of_one), watched(of_the_other)
    for name in ("a.png", "b.png"):
        small_art(inbox / name)
    told = [taken.name for taken in islice(one, 6) if taken is not None]
    assert told == ["a.png", "b.png"] and made == ["a by one", "b by one"]
    assert [taken.waits for taken in found] == [True]
    assert "watched by another window" in found[0].made
    small_art(inbox / "c.png")
    one.close()
    more = [taken for taken in islice(other, 8) if taken is not None]
    assert made[2:] == ["c by the other"]
    assert [(taken.name, taken.waits) for taken in more] == [("", False), ("c.png", False)]
    other.close()


def test_machines_that_watch_one_folder_take_each_file_once(
    job: Faced, store: ArtStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Also while another one works on it; what one leaves behind when it is killed comes back."""
    monkeypatch.setattr("farbe.queue.watch.LOOK", 0.0)
    inbox, made = tmp_path / "in", list[str]()
    inbox.mkdir()

    def looks_of(machine: str, looks: int, use: Callable[[Job, str], str]) -> list[Taken]:
        with monkeypatch.context() as patch:
            patch.setattr("platform.node", lambda: machine)
            patch.setattr("farbe.queue.watch.lock_file", lambda *_: tmp_path / f"{machine}.lock")
            watching = watch(inbox, lambda a: with_only(job, a).job, use, store)
            found = [one for one in islice(watching, looks) if one is not None]
            watching.close()
        return found

    def of_one(_: Job, name: str) -> str:
        found.extend(looks_of("other", 6, lambda _, name: made.append(f"{name} by other") or name))
        made.append(f"{name} by one")
        return name

    def killed(_: Job, name: str) -> str:
        # All that a kill leaves.
        shutil.copytree(inbox, tmp_path / "as it was")
        raise KeyboardInterrupt

    found = list[Taken]()
    for name in ("a.png", "b.png"):
        small_art(inbox / name)
    told = [one.name for one in looks_of("one", 5, of_one)]
    assert (told, [one.name for one in found]) == (["a.png"], ["b.png"])
    assert made == ["b by other", "a by one"]
    assert sorted(path.name for path in inbox.iterdir()) == ["done"]
    small_art(inbox / "c.png")
    with pytest.raises(KeyboardInterrupt):
        looks_of("one", 5, killed)
    assert sorted(path.name for path in inbox.iterdir()) == ["c.png", "done"]
    shutil.rmtree(inbox), (tmp_path / "as it was").rename(inbox)
    assert not (inbox / "c.png").exists()
    assert not looks_of("other", 5, killed)
    assert [one.name for one in looks_of("one", 5, lambda _, name: name)] == ["c.png"]
    assert sorted(path.name for path in inbox.iterdir()) == ["done"]


def test_artwork_that_comes_keeps_its_size_unless_the_recipe_says_otherwise(
    store: ArtStore, tmp_path: Path
) -> None:
    art = store.add_artwork(small_art(tmp_path / "art.png"))
    plain = by_recipe(recipe("dark opaque piece"), store)(art)
    shape = plain.piece.shape
    assert (shape.width, shape.height) == (art.width, art.height)
    assert len(laid(Faced(plain))) == 1 and not plain.guesses
    on_film = recipe("transfer on dark").replace(
        printer=ROLL_PRINTER, medium=Roll(width=300), wide=80.0, bleed=0.5,
        receiver=OPEN_PLATES.replace(name="Front end", folder="/hot"),
    )  # fmt: skip
    path = tmp_path / "f.recipe.json"
    write_recipe(on_film, path)
    made = by_recipe(lent(read_recipe(path), store), store)(art)
    (piece,) = laid(Faced(made))
    assert piece.size == pytest.approx((80.0, 80.0 * art.height / art.width))
    assert made.printer == ROLL_PRINTER and made.bleed == 0.5
    assert made.receiver.folder == "/hot" and made.medium.kind == "roll"


@pytest.mark.long
@pytest.mark.parametrize("split", [Split.LAYER, Split.CHANNEL])
def test_test_prints_are_files_as_the_receiver_takes_them_in_print_order(
    tmp_path: Path, split: Split
) -> None:
    """The press prints the same from many files, solid as 0, as from one."""
    chart = make_chart(ChartKind.VARNISH, PRINTER, OPEN_PLATES, shipped_profile())
    own = OPEN_PLATES.replace(formats=("tiff",), split=split, inverted=True)
    ticket = write_test_print(chart, PRINTER, own, tmp_path / "many")
    write_test_print(chart, PRINTER, OPEN_PLATES, tmp_path / "one")
    files = [file.name for file in ticket.runs[0].files]
    assert files == sorted(files, key=lambda name: int(name.split()[1])) and len(files) > 2
    named = [channel for file in ticket.runs[0].files for channel in file.channels]
    assert named == [channel for layer in ticket.runs[0].layers for channel in layer.channels]
    seen = []
    for name in ("many", "one"):
        press = TestPress()
        press.take(tmp_path / name)
        press.print_run("guide", lambda *_: None)
        seen.append(press.picture().astype(int))
    assert np.abs(seen[0] - seen[1]).max() <= 1


def test_a_recipe_brings_its_printers_profile_and_holes(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    (tmp_path / "own.icc").write_bytes(shipped_profile())
    digest = store.add_profile(tmp_path / "own.icc")
    holes = Holes(spacing=3.0, size=0.8)
    made = job.replace(
        conversion=job.conversion.replace(profile=digest), see_through=holes, bleed=0.7
    )
    write_recipe(with_profile(recipe_of(made, "Own"), made, store), tmp_path / "own.recipe.json")
    other = ArtStore(tmp_path / "other")
    taken = with_recipe(job, lent(read_recipe(tmp_path / "own.recipe.json"), other))
    assert other.path(digest).read_bytes() == shipped_profile()
    assert taken.conversion.profile == digest and taken.job.see_through == holes
    assert taken.bleed == 0.7 and taken.printer == made.printer
