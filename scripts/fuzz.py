"""Files with bytes changed, left out and put in, given to everything that reads files.

    python scripts/fuzz.py [COUNT] [--seed N] [--only KIND]

Each is to be read, or refused in one sentence that names it and has no word of a programmer.
Anything else is a finding; the file is kept and the status is 1.
"""

from __future__ import annotations

import argparse
import io
import json
import random
import re
import shutil
import sys
import tempfile
import traceback
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
import tifffile
from PIL import Image

from farbe.art.profiles import shipped_profile
from farbe.art.read import read_artwork
from farbe.estimate.steps import steps
from farbe.files.document import read_document, write_document
from farbe.files.handoff import hand_off
from farbe.files.jobfile import open_job, save_job
from farbe.files.outlinefile import read_outline
from farbe.files.printerfile import PrinterFile
from farbe.files.receiverfile import ReceiverFile, read_receiver
from farbe.files.recipefile import read_recipe, write_recipe
from farbe.files.store import ArtStore
from farbe.files.table import read_table
from farbe.layout.cutfile import cut_page
from farbe.layout.faced import Faced, faces_of
from farbe.layout.lettering import shipped_font
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.text import TypeFace
from farbe.orders.export import export_orders
from farbe.orders.plan import read_plan
from farbe.orders.planning import plan_list, replanned, workshop_for
from farbe.orders.product import FOLDER as PRODUCTS
from farbe.orders.product import keep_product
from farbe.orders.states import with_states
from farbe.plan.newjob import job_taken
from farbe.plan.printers import FLATBED
from farbe.plan.receivers import OPEN_PLATES
from farbe.plan.recipes import recipe
from farbe.press.machine import TestPress
from farbe.press.service import Service
from farbe.render.bed import job_bed

#: Kinds whose reader knows another name than that of the mutated file.
UNNAMED = ("request", "ticket", "plates", "job text", "job")
#: Of a bed that is looked into.
MOST_PIXELS = 50_000_000
#: What is no sentence for an operator.
RAW = re.compile(r"Traceback|<class|object at 0x|\berrno\b|Errno|\d{40}|pydantic|NoneType|numpy")


@dataclass(frozen=True)
class Kind:
    """A kind of file: one that is good, and what reads it."""

    name: str
    suffix: str
    good: bytes
    read: Callable[[Path], object]


def _picture(kind: str, **more: object) -> bytes:
    y, x = np.mgrid[0:40, 0:60]
    pixels = np.dstack([x * 4, y * 6, 255 - x * 4, np.where(x > 20, 255, 90)]).astype(np.uint8)
    picture = Image.fromarray(pixels)
    target = io.BytesIO()
    (picture if kind in ("PNG", "TIFF", "WEBP") else picture.convert("RGB")).save(
        target, kind, **more
    )
    return target.getvalue()


def _deep_tiff() -> bytes:
    target = io.BytesIO()
    planes = np.arange(40 * 60 * 5, dtype=np.uint16).reshape(40, 60, 5)
    tifffile.imwrite(
        target, planes, photometric="separated", extrasamples=[0], compression="deflate"
    )
    return target.getvalue()


_SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm" viewBox="0 0 40 30">
<style>.a{fill:#c03}</style><g id="white"><circle class="a" cx="20" cy="15" r="9"/></g>
<path d="M2 2 L38 2 L38 28 Z" transform="rotate(10)"/><text x="3" y="9">mint</text></svg>"""
_OUTLINE = b"""<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm"
viewBox="0 0 40 30">
<path d="M2 2 C 20 -4 30 4 38 2 L38 28 L2 28 Z"/><circle cx="20" cy="15" r="4"/></svg>"""
_PDF = b"""%PDF-1.4
1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj
2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj
3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 90 60]/Contents 4 0 R/Resources<<>>>>endobj
4 0 obj<</Length 44>>stream
1 0 0 rg 10 10 40 30 re f 0 0 1 RG 5 5 m 80 50 l S
endstream endobj
trailer<</Root 1 0 R>>
"""
_EPS = b"%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 90 60\n0 0 1 setrgbcolor 9 9 40 30 rectfill\n"
_TABLE = 'name,size\nMaud Ashdown,12\n"Tom, younger",13\nÖrs Vale,14\n'.encode()
_ORDERS = b"""order,product,artwork,quantity,due,note,cancelled
A-1,Piece,art.png,2,2026-12-04,by post,
A-2,piece,,1,4.12.2026,,
A-3,Piece,art.png,3,04/13/2026,,no
"""
_ORDERS_JSON = json.dumps({"orders": [
    {"order": "1", "product": "Piece", "artwork": "art.png", "quantity": 2, "texts": {"a": "b"}},
    {"order": 2, "product": "Piece", "due": "2026-12-04", "cancelled": False},
]}).encode()  # fmt: skip


def _order_kinds(folder: Path, small: Job, store: ArtStore) -> tuple[Kind, ...]:
    """Lists of orders, and plans of them."""
    shop = folder / "shop"
    keep_product(small.replace(name="Piece"), store, shop / PRODUCTS)
    shutil.copy(folder / "art.png", shop / "art.png")
    (shop / "good.csv").write_bytes(_ORDERS)
    plan_list(shop / "good.csv", folder / "plan", store)

    def listed(path: Path) -> object:
        """A list of orders is planned, and the same once more."""
        own = Path(tempfile.mkdtemp(dir=folder))
        (own / PRODUCTS).symlink_to(shop / PRODUCTS)
        shutil.copy(shop / "art.png", own)
        list_path = Path(shutil.copy(path, own))
        plan = plan_list(list_path, own / "plan", store)
        if plan_list(list_path, own / "plan", store).loads != plan.loads:
            raise AssertionError("the same list planned otherwise")
        return plan

    def planned(path: Path) -> object:
        """A plan is read, told of, and goes on."""
        own = Path(tempfile.mkdtemp(dir=folder))
        shutil.copy(path, own / "plan.json")
        try:
            plan = read_plan(own)
        except BadInput as error:
            # A plan is always called so.
            raise BadInput(str(error).replace("plan.json", path.name)) from error
        if plan is not None:
            export_orders(with_states(plan), own / "orders.csv")
            replanned(plan, workshop_for(shop / "good.csv", own, store))
        return plan

    return (
        Kind("orders", ".csv", _ORDERS, listed),
        Kind("orders as objects", ".json", _ORDERS_JSON, listed),
        Kind("plan", ".json", (folder / "plan" / "plan.json").read_bytes(), planned),
    )


@lru_cache
def kinds(folder: Path) -> tuple[Kind, ...]:
    """Every kind, made in a folder that stays."""
    store = ArtStore(folder / "store")
    (folder / "art.png").write_bytes(_picture("PNG", dpi=(150, 150)))
    job = job_taken(store.add_artwork(folder / "art.png"), recipe("dark opaque piece"))
    small = job.replace(printer=job.printer.replace(dpi_x=60, dpi_y=60))
    save_job(small, store, folder / "job.farbe")
    write_recipe(recipe("transfer on dark"), folder / "x.recipe.json")
    write_document(PrinterFile(printer=FLATBED), folder / "x.printer.json")
    write_document(ReceiverFile(receiver=OPEN_PLATES), folder / "x.receiver.json")
    hand_off(small, store, folder / "out")
    font = shipped_font(TypeFace.REGULAR)
    art = Faced(small).artworks[0]

    def opened(path: Path) -> object:
        """A job is opened, and what is opened can be worked with."""
        own = ArtStore(Path(tempfile.mkdtemp(dir=folder)))
        job = open_job(path, own)
        for face in faces_of(job):
            steps(face)
            bed = job_bed(face, own)
            if bed.size[0] * bed.size[1] < MOST_PIXELS:
                bed.rows(bed.size[1] // 2, bed.size[1] // 2 + 2)
            cut_page(face)
        save_job(job, own, own.folder / "again.farbe")
        return open_job(own.folder / "again.farbe", own)

    def taken(path: Path) -> object:
        """A hand-off whose ticket or plates are the file."""
        own = Path(tempfile.mkdtemp(dir=folder))
        shutil.copytree(folder / "out", own, dirs_exist_ok=True)
        shutil.copy(path, own / ("ticket.json" if path.suffix == ".json" else "artwork.tif"))
        return TestPress().take(own)

    def asked(path: Path) -> object:
        """A request to the press."""
        line = path.read_bytes()
        request = json.loads(line)
        return Service(folder / "spool", 0.0).answer(request, lambda **_: None)

    read = read_artwork
    documents = (
        Kind("recipe", ".recipe.json", (folder / "x.recipe.json").read_bytes(), read_recipe),
        Kind("printer", ".printer.json", (folder / "x.printer.json").read_bytes(),
             lambda path: read_document(path, PrinterFile, "printer")),
        Kind("receiver", ".receiver.json", (folder / "x.receiver.json").read_bytes(),
             read_receiver),
        Kind("ticket", ".json", (folder / "out" / "ticket.json").read_bytes(), taken),
    )  # fmt: skip
    return (
        Kind("job", ".farbe", (folder / "job.farbe").read_bytes(), opened),
        Kind("job text", ".farbe", b"", opened),
        *documents,
        Kind("plates", ".tif", (folder / "out" / "artwork.tif").read_bytes(), taken),
        Kind("table", ".csv", _TABLE, read_table),
        *_order_kinds(folder, small, store),
        Kind("outline", ".svg", _OUTLINE, read_outline),
        Kind("png", ".png", _picture("PNG"), read),
        Kind("jpeg", ".jpg", _picture("JPEG", progressive=True), read),
        Kind("tiff", ".tif", _picture("TIFF", compression="tiff_lzw"), read),
        Kind("deep tiff", ".tif", _deep_tiff(), read),
        Kind("gif", ".gif", _picture("GIF"), read),
        Kind("webp", ".webp", _picture("WEBP"), read),
        Kind("svg", ".svg", _SVG, read),
        Kind("pdf", ".pdf", _PDF, read),
        Kind("eps", ".eps", _EPS, read),
        Kind("profile", ".icc", shipped_profile()[:4000] + shipped_profile()[4000:],
             lambda path: store.add_artwork_profile(path, art)),
        Kind("printer's profile", ".icc", shipped_profile(), store.add_profile),
        Kind("font", ".ttf", font, store.add_font),
        Kind("request", ".line", json.dumps({"do": "height", "mm": 9.5}).encode(), asked),
    )  # fmt: skip


def mutated(data: bytes, chance: random.Random) -> bytes:
    """Some bytes of a file changed, left out, doubled or cut off."""
    made = bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 5, 12))):
        if not made:
            break
        # Most damage goes where the structure is.
        end = len(made) if chance.random() < 0.5 else min(len(made), 400)
        at = chance.randrange(end)
        match chance.randrange(6):
            case 0:
                made[at] = chance.randrange(256)
            case 1:
                made[at] ^= 1 << chance.randrange(8)
            case 2:
                del made[at : at + chance.choice((1, 3, 40))]
            case 3:
                made[at:at] = made[at : at + chance.choice((1, 8, 200))]
            case 4:
                made[at : at + 1] = chance.choice(
                    (b"9" * 300, b"-1", b"1e999", b"NaN", b"null", b"[" * 60, b"\xff\xfe", b"\0")
                )
            case _:
                if chance.random() < 0.3:
                    del made[at:]
    return bytes(made)


#: What a value may have become.
_VALUES: tuple[object, ...] = (
    None, True, 0, -1, 10**30, 1e308, -0.5, "", "x" * 300, "ö\ud800", "../../x", [], {}, [[]],
    "NaN", 3, 0.25, 19_000.0,
)  # fmt: skip


def with_other_value(data: bytes, chance: random.Random) -> bytes:
    """JSON with one value changed, left out, or put in."""
    document = json.loads(data)
    holder = document
    while True:
        keys = list(holder) if isinstance(holder, dict) else list(range(len(holder)))
        if not keys:
            break
        key = chance.choice(keys)
        inner = holder[key]
        if isinstance(inner, dict | list) and inner and chance.random() < 0.85:
            holder = inner
            continue
        if chance.random() < 0.15:
            del holder[key]
        elif chance.random() < 0.1 and isinstance(holder, dict):
            holder["strange"] = 1
        else:
            holder[key] = chance.choice(_VALUES)
        break
    return json.dumps(document).encode("utf-8", "surrogatepass")


def _damaged(data: bytes, chance: random.Random) -> bytes:
    """Bytes that are not what they were, or values, where there are some."""
    return (
        with_other_value(data, chance)
        if data[:1] == b"{" and chance.random() < 0.6
        else mutated(data, chance)
    )


def _zipped(text: bytes, good: Path) -> bytes:
    """A job file whose description is a text."""
    target = io.BytesIO()
    with zipfile.ZipFile(good) as old, zipfile.ZipFile(target, "w") as new:
        for name in old.namelist():
            new.writestr(name, text if name == "job.json" else old.read(name))
    return target.getvalue()


def tried(kind: Kind, data: bytes, path: Path) -> str:
    """What came of one: read, refused, or what is wrong."""
    path.write_bytes(data)
    try:
        kind.read(path)
    except BadInput as error:
        words = str(error)
        if "\n" in words or RAW.search(words) or len(words) > 400:
            return f"no plain sentence: {words[:200]}"
        if kind.name not in UNNAMED and path.name not in words:
            return f"the file is not named: {words[:200]}"
        return "refused"
    except (ValueError, KeyError, AttributeError, TypeError) as error:
        # The press's server answers these with a refusal of its own.
        if kind.name == "request":
            return "refused"
        return "".join(traceback.format_exception(error)[-3:])
    except Exception as error:  # noqa: BLE001  (what nobody foresaw is what is looked for)
        return "".join(traceback.format_exception(error)[-3:])
    return "read"


def findings(count: int, seed: int, folder: Path, only: str = "") -> Iterator[tuple[str, str]]:
    """The kind and what came of each of so many files.

    Parameters
    ----------
    count : of files
    seed : of the chance
    folder : to work in
    only : of this kind alone
    """
    chance = random.Random(seed)
    known = [kind for kind in kinds(folder) if only in ("", kind.name)]
    good = folder / "job.farbe"
    with zipfile.ZipFile(good) as archive:
        text = archive.read("job.json")
    for number in range(count):
        kind = known[number % len(known)]
        if kind.name == "job text":
            data = _zipped(_damaged(text, chance), good)
        else:
            data = _damaged(kind.good, chance)
        path = folder / f"mutated-{seed}-{number}{kind.suffix}"
        found = tried(kind, data, path)
        if found in ("read", "refused"):
            path.unlink()
        yield kind.name, found


def _some(job: tuple[int, int, str, str]) -> list[tuple[str, str]]:
    count, seed, folder, only = job
    own = Path(folder) / str(seed)
    own.mkdir()
    return list(findings(count, seed, own, only))


def main() -> int:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("count", nargs="?", type=int, default=400)
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--only", default="")
    wanted = asked.parse_args()
    folder = tempfile.mkdtemp(prefix="farbe-fuzz-")
    part = -(-wanted.count // 8)
    jobs = [(part, wanted.seed * 100 + at, folder, wanted.only) for at in range(8)]
    with ProcessPoolExecutor(2) as pool:
        every = [one for some in pool.map(_some, jobs) for one in some]
    wrong = [(kind, found) for kind, found in every if found not in ("read", "refused")]
    for name, count in sorted(Counter((k, f if f in ("read", "refused") else "WRONG")
                                      for k, f in every).items()):  # fmt: skip
        print(f"{count:6d}  {name[0]}: {name[1]}")
    for kind, found in wrong[:40]:
        print(f"--- {kind}\n{found}")
    print(f"{len(every)} files, {len(wrong)} findings; those are kept in {folder}")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
