"""Printers and their conditions as JSON files, with the profiles that they name."""

from pathlib import Path
from typing import Literal

from farbe.files.document import keep, library, read_document, write_document
from farbe.files.profilebytes import MOST_BYTES, packed, unpacked
from farbe.files.store import ArtStore
from farbe.folders import data_folder
from farbe.model.base import BadInput, Value
from farbe.model.condition import Condition, Profiles
from farbe.model.printer import Printer
from farbe.plan.printers import PRINTERS
from farbe.said import say, shipped, spoken

SUFFIX = ".printer.json"
CONDITION_SUFFIX = ".condition.json"
#: Where printers are kept.
FOLDER = "printers"


class PrinterFile(Value):
    """A printer as a file; ``profiles`` are those of its conditions."""

    format: Literal["farbe-printer"] = "farbe-printer"
    version: Literal[1, 2] = 2
    printer: Printer
    profiles: Profiles = ()


class ConditionFile(Value):
    """A condition as a file, with its profiles."""

    format: Literal["farbe-condition"] = "farbe-condition"
    version: Literal[1] = 1
    condition: Condition
    profiles: Profiles = ()


def printer_file(printer: Printer, store: ArtStore) -> PrinterFile:
    """A printer as a file, with its profiles.

    Parameters
    ----------
    printer : to be written
    store : that has its profiles
    """
    needed = (digest for one in printer.conditions for digest in one.profiles)
    return PrinterFile(printer=printer, profiles=packed(needed, store))


def lent_printer(file: PrinterFile, store: ArtStore) -> Printer:
    """The printer of a file, once its profiles are in a store, where jobs look for them.

    Parameters
    ----------
    file : that was read
    store : that gets the profiles
    """
    unpacked(file.profiles, store, spoken(file.printer.name))
    return file.printer


def read_printer_file(path: Path) -> PrinterFile:
    """Read a printer with its profiles.

    Parameters
    ----------
    path : of the file

    Raises
    ------
    BadInput
        If the file is missing or holds none, with one sentence that says why.
    """
    return read_document(path, PrinterFile, shipped("printer"), most=MOST_BYTES)


def write_printer(printer: Printer, store: ArtStore, path: Path) -> None:
    """Write a printer with its profiles.

    Parameters
    ----------
    printer : to be written
    store : that has its profiles
    path : of the file
    """
    write_document(printer_file(printer, store), path)


def kept_printers() -> tuple[PrinterFile, ...]:
    """Printers of the user's, then those that ship and have no kept namesake."""
    kept, _ = library(data_folder() / FOLDER, SUFFIX, read_printer_file)
    names = {one.printer.name for one in kept}
    return (*kept, *(PrinterFile(printer=one) for one in PRINTERS if one.name not in names))


def keep_printer(printer: Printer, store: ArtStore) -> Path:
    """Keep a printer with its profiles; a namesake is replaced.

    Parameters
    ----------
    printer : to be kept
    store : that has its profiles

    Returns
    -------
    Its file.
    """
    return keep(printer_file(printer, store), printer.name, data_folder() / FOLDER, SUFFIX)


def printer_by(name: str, store: ArtStore) -> Printer:
    """A printer as it is named at the command line: a file's, a kept one, or one that ships.

    Parameters
    ----------
    name : of a printer, in any case, or of a file that ends in ``.printer.json``
    store : that gets its profiles

    Raises
    ------
    BadInput
        If there is none.
    """
    if name.endswith(SUFFIX):
        return lent_printer(read_printer_file(Path(name)), store)
    known = {one.printer.name.casefold(): one for one in kept_printers()}
    if name.casefold() not in known:
        names = "; ".join(one.printer.name for one in known.values())
        raise BadInput(
            say("There is no printer named {name}; there are: {names}.", name=name, names=names)
        )
    return lent_printer(known[name.casefold()], store)


def write_condition(condition: Condition, store: ArtStore, path: Path) -> None:
    """Write a condition with its profiles.

    Parameters
    ----------
    condition : to be written
    store : that has its profiles
    path : of the file
    """
    file = ConditionFile(condition=condition, profiles=packed(condition.profiles, store))
    write_document(file, path)


def read_condition(path: Path, store: ArtStore) -> Condition:
    """Read a condition, and put its profiles into a store.

    Parameters
    ----------
    path : of the file
    store : that gets the profiles

    Raises
    ------
    BadInput
        If the file is missing or holds none, with one sentence that says why.
    """
    file = read_document(path, ConditionFile, shipped("condition"), most=MOST_BYTES)
    unpacked(file.profiles, store, path.name)
    return file.condition
