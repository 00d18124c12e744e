"""What makes a PDF a PDF/X-4 (ISO 15930-7): identification, metadata, output intent."""

from __future__ import annotations

import datetime
import io
import os
import uuid

import pikepdf
from pikepdf import Array, Dictionary, Name, String
from PIL import ImageCms

#: ISO 15930-7 is of this version of PDF, whose features the pages keep to.
VERSION = "1.6"
_XMP = {
    "pdfxid": "http://www.npes.org/pdfx/ns/id/",
    "mm": "http://ns.adobe.com/xap/1.0/mm/",
    "xmp": "http://ns.adobe.com/xap/1.0/",
    "pdf": "http://ns.adobe.com/pdf/1.3/",
    "dc": "http://purl.org/dc/elements/1.1/",
}


def written_at() -> datetime.datetime:
    """The present time; that of SOURCE_DATE_EPOCH where somebody wants the same bytes again."""
    fixed = os.environ.get("SOURCE_DATE_EPOCH", "")
    if fixed.isdigit():
        return datetime.datetime.fromtimestamp(int(fixed), datetime.UTC)
    return datetime.datetime.now(datetime.UTC).replace(microsecond=0)


def identified(pdf: pikepdf.Pdf, title: str, profile: bytes) -> str:
    """Say in a document that it is PDF/X-4; the version that its header is to have.

    Without a profile there is no output intent, and it is a plain PDF.

    Parameters
    ----------
    pdf : with all its pages
    title : of the document
    profile : of the process inks, ICC

    Returns
    -------
    The version of PDF that the header is to have, such as ``1.6``.
    """
    now, words = written_at(), title or "Plates"
    info = pdf.docinfo
    info["/Title"], info["/Creator"] = String(words), String("Farbe")
    info["/Producer"] = String("Farbe")
    info["/CreationDate"] = info["/ModDate"] = String(now.strftime("D:%Y%m%d%H%M%SZ"))
    info["/Trapped"] = Name("/False")
    stamp = now.strftime("%Y-%m-%dT%H:%M:%SZ")
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as meta:
        for space, name, value in (
            ("dc", "title", words), ("xmp", "CreatorTool", "Farbe"), ("xmp", "CreateDate", stamp),
            ("xmp", "ModifyDate", stamp), ("xmp", "MetadataDate", stamp),
            ("pdf", "Producer", "Farbe"), ("pdf", "Trapped", "False"),
            ("mm", "DocumentID", f"uuid:{uuid.uuid5(uuid.NAMESPACE_OID, words + stamp)}"),
            ("mm", "VersionID", "1"), ("mm", "RenditionClass", "default"),
        ):  # fmt: skip
            meta[f"{{{_XMP[space]}}}{name}"] = value
        if profile:
            meta[f"{{{_XMP['pdfxid']}}}GTS_PDFXVersion"] = "PDF/X-4"
    if profile:
        _intend(pdf, profile)
    return VERSION


def _intend(pdf: pikepdf.Pdf, profile: bytes) -> None:
    """The output intent: the printer's profile."""
    name = (
        ImageCms.getProfileDescription(ImageCms.getOpenProfile(io.BytesIO(profile))) or ""
    ).strip()
    embedded = pdf.make_stream(profile)
    embedded.N = 4
    pdf.Root.OutputIntents = Array(
        [
            Dictionary(
                Type=Name.OutputIntent,
                S=Name.GTS_PDFX,
                OutputConditionIdentifier=String(name or "Printer"),
                Info=String(name or "Printer"),
                DestOutputProfile=embedded,
            )
        ]
    )
