"""What makes a PDF one for the press: PDF/X-4 (ISO 15930-7), with the profile of the press as its output intent."""

from __future__ import annotations

import io
import uuid
from datetime import datetime
from typing import Any

import pikepdf
from PIL import ImageCms

from volumen.colour.press import profile_bytes
from volumen.colour.press_settings import Press
from volumen.formats.pdf.objects import levels, of_version
from volumen.picture.instructions import SpotInk

Array, Dictionary, Name, String = pikepdf.Array, pikepdf.Dictionary, pikepdf.Name, pikepdf.String
XMP_ID = "http://www.npes.org/pdfx/ns/id/"
VERSION = "PDF/X-4"


def separation(pdf: Any, ink: SpotInk, space: Any) -> Any:
    """The colour space of a spot ink: what has no plate for it mixes its tint between white and its look."""
    ramp = Dictionary(FunctionType=2, Domain=[0, 1], C0=Array([1, 1, 1]), C1=Array([*levels(ink.rgb)]), N=1)
    return pdf.make_indirect(Array([Name.Separation, plate_name(ink.name), space, ramp]))


def all_plates(pdf: Any) -> Any:
    """The colour space of marks, which every plate has."""
    ramp = Dictionary(FunctionType=2, Domain=[0, 1], C0=Array([0, 0, 0, 0]), C1=Array([1, 1, 1, 1]), N=1)
    return pdf.make_indirect(Array([Name.Separation, Name.All, Name.DeviceCMYK, ramp]))


def plate_name(name: str) -> Any:
    """A name as PDF writes it: letters beyond ASCII as UTF-8, what has a meaning of its own as its number (ISO
    32000-1, 7.3.5)."""
    plain = "".join(chr(b) if 33 <= b <= 126 and chr(b) not in "#/()<>[]{}%" else f"#{b:02x}" for b in name.encode())
    return pikepdf.Object.parse(f"/{plain}".encode("ascii"))


def add_intent(pdf: Any, press: Press) -> None:
    """Say which press the file is meant for. Raises ProfileProblem."""
    data = of_version(profile_bytes(press.profile))
    profile = pikepdf.Stream(pdf, data)
    profile.stream_dict = Dictionary(N=4)
    told: Any = ImageCms.ImageCmsProfile(io.BytesIO(data)).profile
    name = (told.profile_description or press.name).strip()
    pdf.Root.OutputIntents = Array([
        Dictionary(
            Type=Name.OutputIntent, S=Name.GTS_PDFX, OutputConditionIdentifier=String(name), Info=String(name),
            OutputCondition=String(name), DestOutputProfile=pdf.make_indirect(profile),
        )
    ])  # fmt: skip


def rendering_intent(press: Press) -> str:
    """The operator that says how colours become inks (ISO 32000-1, 8.6.5.8)."""
    return "/Perceptual ri\n" if press.intent == "perceptual" else "/RelativeColorimetric ri\n"


def add_version(pdf: Any, title: str, made: datetime | None) -> None:
    """Say that it is a PDF/X-4, in XMP, and that nothing is trapped."""
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as xmp:
        xmp.register_xml_namespace(XMP_ID, "pdfxid")
        xmp["pdfxid:GTS_PDFXVersion"] = VERSION
        xmp["pdf:Trapped"] = "False"
        seed = f"{title} {made.isoformat() if made else ''}"
        xmp["xmpMM:DocumentID"] = f"uuid:{uuid.uuid5(uuid.NAMESPACE_OID, seed)}"
        xmp["xmpMM:VersionID"] = "1"
        xmp["xmpMM:RenditionClass"] = "default"
        if not title:
            xmp["dc:title"] = "untitled"
    pdf.docinfo["/Trapped"] = Name("/False")
    if not title:
        pdf.docinfo["/Title"] = "untitled"
