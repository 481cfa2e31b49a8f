"""Materials as JSON files, to share between documents."""

from __future__ import annotations

from pathlib import Path

import msgspec

from volumen.formats.files import FileProblem, decoded, read_bytes, write_bytes
from volumen.shading.materials import Material

_MAX_BYTES = 1 << 20


class _File(msgspec.Struct):
    materials: list[Material]


def read_materials(path: Path) -> list[Material]:
    """The materials of a JSON file. Raises FileProblem."""
    found = decoded(read_bytes(path, _MAX_BYTES), _File, path.name, "materials").materials
    if not found:
        raise FileProblem(f"'{path.name}' holds no materials")
    return found


def write_materials(materials: tuple[Material, ...], path: Path) -> None:
    """Write materials as JSON. Raises FileProblem."""
    data = msgspec.json.format(msgspec.json.encode(_File(list(materials))), indent=2)
    write_bytes(path, data)
