"""The plan of a cutter as SVG: one path a line, in the order of cutting, true to size."""

from __future__ import annotations

from lxml import etree

from volumen.devices.cutter import CutPlan
from volumen.geometry.path import Path, path_data
from volumen.model.nodes import Sheet
from volumen.model.sheet import PER_UNIT

_SVG = "http://www.w3.org/2000/svg"


def cut_svg(plan: CutPlan, sheet: Sheet) -> bytes:
    """The lines of a plan on a sheet, in mm; ``id`` tells their order."""
    mm = PER_UNIT["mm"]
    root = etree.Element(
        "svg", nsmap={None: _SVG}, width=f"{sheet.width / mm:g}mm", height=f"{sheet.height / mm:g}mm",
        viewBox=f"0 0 {sheet.width:g} {sheet.height:g}",
    )  # fmt: skip
    title = etree.SubElement(root, "title")
    title.text = f"{plan.cut_mm:.0f} mm to cut, {plan.seconds:.0f} s"
    for k, line in enumerate(plan.lines, 1):
        drawn = path_data(Path((line,)))
        etree.SubElement(
            root, "path", id=f"cut-{k}", d=drawn, fill="none", stroke="#000000", **{"stroke-width": "0.25"}
        )
    return bytes(etree.tostring(root, xml_declaration=True, encoding="utf-8", pretty_print=True))
