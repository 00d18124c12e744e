"""Layers of a PDF (optional content, ISO 32000-1, 8.11), as they print."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import pikepdf
from pikepdf import Array, Dictionary, Name


def layers_of(pdf: pikepdf.Pdf) -> dict[str, bool]:
    """Names of all layers, and whether the file's maker has them printed.

    Parameters
    ----------
    pdf : an open file

    Returns
    -------
    In the order of the file; layers of one name are one.
    """
    found: dict[str, bool] = {}
    for group in _groups(pdf):
        name = str(group.get("/Name", ""))
        found[name] = found.get(name, False) or _prints(pdf, group)
    return found


def switch_layers(pdf: pikepdf.Pdf, on: Mapping[str, bool]) -> None:
    """State in a file which layers are on, so that every reader draws the same.

    Parameters
    ----------
    pdf : changed
    on : by name; layers that are not named are on
    """
    groups = _groups(pdf)
    if not groups:
        return
    for group in groups:
        if "/Usage" in group:
            del group["/Usage"]
        group.Intent = Name.View
    off = [group for group in groups if not on.get(str(group.get("/Name", "")), True)]
    properties = pdf.Root.OCProperties
    properties.D = Dictionary(BaseState=Name.ON, ON=Array(), OFF=Array(off))
    if "/Configs" in properties:
        del properties["/Configs"]


def _groups(pdf: pikepdf.Pdf) -> list[Any]:
    properties = pdf.Root.get("/OCProperties")
    if not isinstance(properties, Dictionary):
        return []
    groups = properties.get("/OCGs", Array())
    return [group for group in list(groups) if isinstance(group, Dictionary)]


def _prints(pdf: pikepdf.Pdf, group: Any) -> bool:
    usual = pdf.Root.OCProperties.get("/D", Dictionary())
    on = usual.get("/BaseState", Name.ON) != Name.OFF
    if _holds(usual.get("/ON"), group):
        on = True
    if _holds(usual.get("/OFF"), group):
        on = False
    stated = group.get("/Usage", Dictionary()).get("/Print", Dictionary()).get("/PrintState")
    for rule in list(usual.get("/AS", Array())):
        # Layers may change by themselves when the page is printed.
        if rule.get("/Event") == Name.Print and _holds(rule.get("/OCGs"), group) and stated:
            on = stated != Name.OFF
    return on


def _holds(array: Any, group: Any) -> bool:
    return isinstance(array, Array) and any(one.objgen == group.objgen for one in list(array))
