"""Products: kept jobs that say all but whose artwork and words are printed."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path

from farbe.atomic import make_folder
from farbe.files.document import library_path
from farbe.files.jobfile import SUFFIX, open_job, save_job
from farbe.files.store import ArtStore
from farbe.folders import data_folder
from farbe.kept import once
from farbe.layout.faced import Faced
from farbe.layout.lettering import fields
from farbe.layout.pockets import bed_pockets
from farbe.model.base import BadInput
from farbe.model.face import Face
from farbe.model.job import Job
from farbe.model.piece import Rectangle
from farbe.model.roll import Roll
from farbe.model.text import SERIAL
from farbe.said import say

#: Beside a list, and among what is the user's own.
FOLDER = "products"
#: What texts may name of any order, besides the list's own columns.
OF_ORDERS = ("order", "product", "note", "due")


@dataclass(frozen=True)
class Product:
    """A kept job, and how orders fill it.

    Attributes
    ----------
    name : as lists call it
    job : piece, layers, jig or film, printer; where artwork and texts go
    """

    name: str
    job: Job

    @once
    def on_film(self) -> bool:
        return isinstance(self.job.medium, Roll)

    @once
    def columns(self) -> tuple[str, ...]:
        """What its texts ask of an order, in their order."""
        named = (name for face in self.job.faces for box in face.texts for name in fields(box.text))
        known = {"#", SERIAL, *OF_ORDERS}
        return tuple(dict.fromkeys(name for name in named if name not in known))

    @once
    def pockets(self) -> tuple[int, ...]:
        """Numbers of the pockets that are on, in the order in which they are filled."""
        return () if self.on_film else tuple(p.number for p in bed_pockets(Faced(self.job)) if p.on)

    @once
    def own_artwork(self) -> bool:
        """Whether it prints something where an order has no artwork."""
        return bool(self.job.faces[0].artworks)

    @once
    def group(self) -> str:
        """What lies on one board, or one film, has it in common: all but the artworks."""
        return hashlib.sha256(self.bare.model_dump_json().encode("utf-8")).hexdigest()[:16]

    @once
    def bare(self) -> Job:
        """The job without what orders bring."""
        first, *others = self.job.faces
        piece, medium = self.job.piece, self.job.medium
        if isinstance(medium, Roll):
            # There every artwork is a piece of its own.
            piece = piece.replace(name="-", shape=Rectangle(width=1.0, height=1.0))
            medium = medium.replace(places=())
        return self.job.replace(
            name="-", piece=piece, medium=medium, order="", picks=(), again=None, load=0,
            faces=(_bare(first).replace(artworks=(), changes=()), *map(_bare, others)),
            garments=(), accepted=(), guesses=(),
        )  # fmt: skip


def _bare(face: Face) -> Face:
    return face.replace(table=None, artwork_column=None)


def product_of(job: Job) -> Product:
    """A job as a product, if orders can fill it.

    Parameters
    ----------
    job : all but what orders bring

    Raises
    ------
    BadInput
        If they cannot.
    """
    face = Faced(job)
    if face.roll is not None and face.two_sided:
        raise BadInput(say("{job} is film with two sides, which no list fills.", job=job.name))
    if face.parts is not None:
        raise BadInput(say("{job} prints a picture in parts, which no list fills.", job=job.name))
    made = Product(job.name, job)
    if not made.on_film and not made.pockets:
        raise BadInput(say("All pockets of {job} are off; switch some on.", job=job.name))
    return made


@dataclass(frozen=True)
class Products:
    """Products by their names, however those are written, and files that hold none."""

    known: Mapping[str, Product]
    unusable: tuple[str, ...] = ()

    def named(self, name: str) -> Product | None:
        """The product of a name; None if there is none.

        Parameters
        ----------
        name : in any case
        """
        return self.known.get(_plain(name))

    @property
    def names(self) -> tuple[str, ...]:
        """As they are written, in the order of the alphabet."""
        return tuple(sorted(product.name for product in self.known.values()))


def _plain(name: str) -> str:
    return " ".join(name.casefold().split())


def products_in(folders: Iterable[Path], store: ArtStore) -> Products:
    """The products of some folders; what lies in an earlier one counts.

    Parameters
    ----------
    folders : that may not be there
    store : into which their files go
    """
    known: dict[str, Product] = {}
    unusable = []
    for folder in folders:
        for path in sorted(folder.glob(f"*{SUFFIX}")) if folder.is_dir() else ():
            try:
                made = product_of(open_job(path, store))
            except BadInput as error:
                # One bad file must not keep the others away; it is said why.
                unusable.append(f"{path.name}: {error}")
            else:
                known.setdefault(_plain(made.name), made)
    return Products(known, tuple(unusable))


def products_for(list_path: Path, store: ArtStore) -> Products:
    """The products that a list may name: those kept beside it, then the user's own.

    Parameters
    ----------
    list_path : of the list
    store : into which their files go
    """
    return products_in((list_path.parent / FOLDER, data_folder() / FOLDER), store)


def keep_product(job: Job, store: ArtStore, folder: Path | None = None) -> Path:
    """Keep a job as a product, under its name; one of the same name is replaced.

    Parameters
    ----------
    job : all but what orders bring
    store : of its files
    folder : of the library; None is the user's own

    Returns
    -------
    The file that it was written to.

    Raises
    ------
    BadInput
        If lists cannot fill it, or it cannot be written.
    """
    # A guide may be on the board already; what was said of single prints does not matter.
    kept = job.replace(picks=(), order="", load=0, again=None, accepted=(), guesses=())
    where = folder or data_folder() / FOLDER
    make_folder(where)
    path = library_path(where, product_of(kept).name, SUFFIX)
    save_job(kept, store, path)
    return path
