"""The ticket for other programs' work flow, as CIP4's XJDF 2.1 has it."""

from __future__ import annotations

import uuid
from xml.etree import ElementTree as Tree

from farbe.files.pdfx import written_at
from farbe.files.ticket import Ticket

NAMESPACE = "http://www.CIP4.org/JDFSchema_2_0"
VERSION = "2.1"
_POINTS = 72.0 / 25.4


def exchange_ticket(ticket: Ticket) -> bytes:
    """What is printed how often from which files, as an XJDF document.

    Parameters
    ----------
    ticket : of the hand-off

    Returns
    -------
    XML in UTF-8.
    """
    root = Tree.Element(
        "XJDF",
        {
            "xmlns": NAMESPACE,
            "JobID": ticket.order or ticket.job,
            "JobPartID": "print",
            "DescriptiveName": ticket.job,
            "Category": "DigitalPrinting",
            "Types": "DigitalPrinting",
            "Version": VERSION,
        },
    )
    _audit(root, ticket)
    count = len(ticket.pockets)
    products = Tree.SubElement(root, "ProductList")
    Tree.SubElement(
        products, "Product",
        {"ID": "PRD1", "IsRoot": "true", "Amount": str(count), "DescriptiveName": ticket.job},
    )  # fmt: skip
    _run_list(root, ticket)
    _media(root, ticket)
    out = _resource(root, "Component", "Output", "CMP1")
    pool = Tree.SubElement(out, "AmountPool")
    Tree.SubElement(pool, "PartAmount", {"Amount": str(count)})
    Tree.SubElement(out, "Component")
    Tree.indent(root)
    return bytes(Tree.tostring(root, encoding="utf-8", xml_declaration=True)) + b"\n"


def _audit(root: Tree.Element, ticket: Ticket) -> None:
    now = written_at().strftime("%Y-%m-%dT%H:%M:%SZ")
    pool = Tree.SubElement(root, "AuditPool")
    created = Tree.SubElement(pool, "AuditCreated")
    Tree.SubElement(
        created, "Header",
        {
            "AgentName": "Farbe", "DeviceID": ticket.printer, "Time": now,
            "ID": f"A{uuid.uuid5(uuid.NAMESPACE_OID, ticket.job + now).hex}",
        },
    )  # fmt: skip


def _resource(root: Tree.Element, name: str, usage: str, identity: str) -> Tree.Element:
    found = Tree.SubElement(root, "ResourceSet", {"Name": name, "Usage": usage})
    return Tree.SubElement(found, "Resource", {"ID": identity})


def _run_list(root: Tree.Element, ticket: Ticket) -> None:
    files = [(run, file) for run in ticket.runs for file in run.files]
    found = Tree.SubElement(root, "ResourceSet", {"Name": "RunList", "Usage": "Input"})
    for number, (run, file) in enumerate(files, start=1):
        one = Tree.SubElement(
            found, "Resource", {"ID": f"RUN{number}", "DescriptiveName": run.name}
        )
        listed = Tree.SubElement(one, "RunList")
        kind = "application/pdf" if file.format == "pdf" else "image/tiff"
        Tree.SubElement(listed, "FileSpec", {"URL": file.name, "MimeType": kind})


def _media(root: Tree.Element, ticket: Ticket) -> None:
    board = ticket.board
    width, height = board.width * _POINTS, board.height * _POINTS
    one = _resource(root, "Media", "Input", "MED1")
    Tree.SubElement(
        one, "Media",
        {
            "MediaType": "Film" if ticket.medium == "roll" else "Other",
            "Dimension": f"{width:.2f} {height:.2f}",
            # Microns, of the highest piece that lies on it.
            "Thickness": f"{ticket.height * 1000:.0f}",
        },
    )  # fmt: skip
