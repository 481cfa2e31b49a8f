"""Write the demo artwork as files beside its scripts."""

from __future__ import annotations

from pathlib import Path

from volumen import demo
from volumen.compose.scene import build
from volumen.formats import native
from volumen.formats.export import picture_png


def main() -> None:
    for name, (_, make) in demo.DEMOS.items():
        document = make()
        path = Path(demo.__file__).parent / f"{name}.volumen"
        native.save(document, path, picture_png(build(document), 256))
        print(path.name, path.stat().st_size, "bytes")


if __name__ == "__main__":
    main()
