"""The ``.volumen`` file: a zip archive with a type mark, the document as JSON, and a preview picture.

``docs/file-format.md`` describes it. Reading trusts nothing: sizes are limited before anything is unpacked,
names other than the known ones are ignored, and the document is validated before it replaces an open one.
"""

from __future__ import annotations

import hashlib
import io
import zipfile
from contextlib import suppress
from pathlib import Path
from typing import BinaryIO

import msgspec

from volumen.formats.files import FileProblem, read_bytes, write_atomically
from volumen.formats.later_kinds import laid_aside, put_back, told
from volumen.geometry.affine import IDENTITY, Affine, mean_scale, multiply
from volumen.model.ingredients import CastShadow
from volumen.model.lengths import scaled_lengths
from volumen.model.limits import MAX_ASSETS, MAX_FILE, MAX_JSON, MAX_WHOLE, most
from volumen.model.mending import mended
from volumen.model.nodes import Asset, Document, Group, Node
from volumen.model.validate import DocumentError, validate

MIME = b"application/vnd.volumen"
VERSION = 5
MAX_BRACKETS = 4000
_OWN_LIFTS = 4  # the first format whose lifts, and lengths of cast shadows, scale with their objects
_CONTENT = "document.json"
_BRIEF = 200  # letters of a parser's message
_ASSETS = "assets/"
replace = msgspec.structs.replace


class Envelope(msgspec.Struct, frozen=True):
    """What ``document.json`` holds."""

    version: int
    document: Document


class _VersionOnly(msgspec.Struct):
    version: int


_encoder = msgspec.json.Encoder()
_decoder = msgspec.json.Decoder(Envelope)
_branch_decoder = msgspec.json.Decoder(tuple[Group, ...])


def encode(document: Document) -> bytes:
    """A document as JSON bytes with its version."""
    data = _encoder.encode(Envelope(VERSION, document))
    return put_back(data, document.later) if document.later else data


def decode(data: bytes, name: str) -> Document:
    """Read ``document.json``. Raises FileProblem that names the file and what is wrong in it."""
    return _decoded(data, name)[0]


def _decoded(data: bytes, name: str) -> tuple[Document, list[str]]:
    """A document with what had to be changed for it to be within the limits."""
    _check_depth(data, name)
    try:
        version = msgspec.json.decode(data, type=_VersionOnly).version
        if version > VERSION:
            raise FileProblem(
                f"'{name}' was written by a newer Volumen (format {version}, this one reads {VERSION}); update it"
            )
        if version < 1:
            raise FileProblem(f"'{name}' says it has format {version}, which never existed")
        document = _document(data if version == VERSION else _upgraded(data))
        document, notes = mended(document)
        notes = [*told(document), *notes]
        if version < _OWN_LIFTS:
            document, more = mended(own_lifts(document))
            notes += more
    except RecursionError as error:
        raise FileProblem(f"'{name}' cannot be used: objects are nested far too deep") from error
    except DocumentError as error:
        raise FileProblem(f"'{name}' cannot be used: {error}") from error
    except (msgspec.DecodeError, UnicodeDecodeError, OverflowError, ValueError) as error:
        if isinstance(error, FileProblem):
            raise
        raise FileProblem(f"'{name}' is damaged: {_brief(error)}") from error
    return document, notes


def _document(data: bytes) -> Document:
    """What the parser makes of a document; ingredients that it does not know are laid aside."""
    try:
        document = _decoder.decode(data).document
        return replace(document, later=()) if document.later else document  # a file is not believed in this
    except msgspec.ValidationError:
        known, later = laid_aside(data)
        if not later:
            raise
        return replace(_decoder.decode(known).document, later=later)


def _brief(error: Exception) -> str:
    """What is wrong, without a whole text that stands where none belongs."""
    words = str(error)
    return words if len(words) <= _BRIEF else f"{words[: _BRIEF // 2]} … {words[-_BRIEF // 2 :]}"


def _upgraded(data: bytes) -> bytes:
    """A document of an older format in today's.

    Format 1 held shadows to one ``receiver``, or null; in formats 1 and 2 a glow had one ``far`` colour, or null.
    """
    whole = msgspec.json.decode(data)
    stack = [whole]
    while stack:
        part = stack.pop()
        if isinstance(part, list):
            stack.extend(part)
        elif isinstance(part, dict):
            if part.get("type") == "cast shadow" and "receiver" in part:
                one = part.pop("receiver")
                part["receivers"] = [] if one is None else [one]
            if part.get("type") in ("outer glow", "inner glow") and (far := part.pop("far", None)) is not None:
                part["stops"] = [{"at": 0.0, "colour": part["colour"]}, {"at": 1.0, "colour": far}]
            stack.extend(part.values())
    whole["version"] = VERSION
    return msgspec.json.encode(whole)


def own_lifts(document: Document) -> Document:
    """A document whose lifts, and the lengths of whose cast shadows, are in sheet units, with those of each object in
    its own."""

    def change(node: Node, outer: Affine) -> Node:
        world = multiply(outer, node.transform)
        k = mean_scale(world) or 1.0
        children = tuple(change(c, world) for c in node.children)
        recipe = tuple(scaled_lengths(i, 1 / k) if isinstance(i, CastShadow) else i for i in node.recipe)
        return replace(node, children=children, lift=node.lift / k, recipe=recipe)

    root = change(document.root, IDENTITY)
    assert isinstance(root, Group)
    return replace(document, root=root)


def _check_depth(data: bytes, name: str) -> None:
    """Refuse deep nesting before any recursive parser sees it: a linear scan outside strings."""
    depth = 0
    plain = data.replace(b"\\\\", b"").replace(b'\\"', b"")
    for i, part in enumerate(plain.split(b'"')):
        if i % 2:
            continue
        opened = part.count(b"{") + part.count(b"[")
        depth += opened - part.count(b"}") - part.count(b"]")
        if depth > MAX_BRACKETS or (opened > MAX_BRACKETS and depth + opened > MAX_BRACKETS * 50):
            raise FileProblem(f"'{name}' cannot be used: objects are nested far too deep")


def save(document: Document, path: Path, preview: bytes | None = None) -> None:
    """Write a document atomically. ``preview`` is a PNG. Raises FileProblem; the old file is then intact."""

    def write(file: BinaryIO) -> None:
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as archive:
            archive.writestr("mimetype", MIME, zipfile.ZIP_STORED)
            archive.writestr(_CONTENT, encode(replace(document, assets=())))
            for asset in document.assets:
                archive.writestr(_ASSETS + asset.key, asset.data, zipfile.ZIP_STORED)
            if preview:
                archive.writestr("preview.png", preview, zipfile.ZIP_STORED)

    write_atomically(path, write)


def load(path: Path) -> Document:
    """Read a ``.volumen`` file. Raises FileProblem with a message for the artist."""
    return read(path)[0]


def read(path: Path) -> tuple[Document, list[str]]:
    """Read a ``.volumen`` file; also what was brought into the limits. Raises FileProblem."""
    content, assets = _content(read_bytes(path, MAX_FILE), path.name)
    document, notes = _decoded(content, path.name)
    return replace(document, assets=assets), notes


def unpacked_size(path: Path) -> int:
    """How many bytes of content a file says it holds; 0 for what cannot be told."""
    with (
        suppress(OSError, zipfile.BadZipFile, KeyError, ValueError, NotImplementedError),
        zipfile.ZipFile(path) as archive,
    ):
        return archive.getinfo(_CONTENT).file_size
    return 0


def _content(data: bytes, name: str) -> tuple[bytes, tuple[Asset, ...]]:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            names = archive.namelist()
            if (
                "mimetype" not in names
                or archive.getinfo("mimetype").file_size != len(MIME)
                or archive.read("mimetype") != MIME
            ):
                raise FileProblem(f"'{name}' is not a Volumen document")
            if any(i.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED) for i in archive.infolist()):
                raise FileProblem(f"'{name}' is damaged: its parts must be stored or deflated")
            if names.count(_CONTENT) != 1:
                raise FileProblem(f"'{name}' is damaged: it must hold {_CONTENT} once")
            if archive.getinfo(_CONTENT).file_size > MAX_JSON:
                raise FileProblem(f"'{name}' unpacks to more than {MAX_JSON >> 20} MB; it is not opened")
            with archive.open(_CONTENT) as member:
                content = member.read(MAX_JSON + 1)
            assets = _read_assets(archive, name)
    except (zipfile.BadZipFile, EOFError, OSError, NotImplementedError, RuntimeError, ValueError) as error:
        if isinstance(error, FileProblem):
            raise
        raise FileProblem(f"'{name}' is damaged or not a Volumen document: {error}") from error
    except Exception as error:  # the inflate library has an error class of its own
        raise FileProblem(f"'{name}' is damaged: {error}") from error
    if len(content) > MAX_JSON:
        raise FileProblem(f"'{name}' unpacks to more than {MAX_JSON >> 20} MB; it is not opened")
    return content, assets


def _read_assets(archive: zipfile.ZipFile, name: str) -> tuple[Asset, ...]:
    """Embedded data; its name must be the hash of its content."""
    out: list[Asset] = []
    total = 0
    for info in archive.infolist():
        if not info.filename.startswith(_ASSETS):
            continue
        total += info.file_size
        if total > MAX_ASSETS or len(out) >= most("Document", "assets"):
            raise FileProblem(f"the pictures in '{name}' unpack to more than {MAX_ASSETS >> 20} MB; it is not opened")
        data = archive.read(info)
        key = info.filename.removeprefix(_ASSETS)
        if asset_key(data) == key:
            out.append(Asset(key, data))
    return tuple(out)


def asset_key(data: bytes) -> str:
    """The name of embedded data: a hash of its content."""
    return hashlib.sha256(data).hexdigest()[:32]


def encode_branches(branches: tuple[Group, ...]) -> bytes:
    """Nodes for the clipboard: each wrapped in a group that carries its place on the sheet."""
    return _encoder.encode(branches)


def decode_branches(data: bytes) -> tuple[Group, ...]:
    """Nodes from the clipboard. Raises FileProblem if the data is not what ``encode_branches`` wrote."""
    _check_depth(data, "clipboard")
    try:
        branches = _branch_decoder.decode(data)
        for branch in branches:
            validate(Document(root=branch, next_id=MAX_WHOLE))
    except (msgspec.DecodeError, UnicodeDecodeError, OverflowError, DocumentError, RecursionError) as error:
        raise FileProblem(f"the clipboard cannot be pasted: {error}") from error
    return branches
