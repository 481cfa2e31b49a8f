"""The gradient mesh of the chosen shape: found, placed on the canvas, changed and put back."""

from __future__ import annotations

from collections.abc import Callable

from volumen.app.canvas.tools.base import Tool
from volumen.app.state.colouring import mesh_of
from volumen.edit import recipes
from volumen.geometry.affine import Affine, multiply
from volumen.model.nodes import Shape
from volumen.model.tree import world_of
from volumen.shading.mesh import Mesh, MeshError
from volumen.shading.mesh_paints import from_paint, to_paint
from volumen.shading.paint import MeshPaint

Index = tuple[int, int]


class MeshAtHand(Tool):
    """What tools on a mesh share: finding it, placing it, putting it back."""

    @property
    def points(self) -> tuple[Index, ...]:
        return self.session.mesh_points

    def found(self) -> tuple[Shape, int, MeshPaint, Mesh] | None:
        found = mesh_of(self.session)
        if found is None:
            return None
        try:
            return (*found, from_paint(found[2]))
        except MeshError:
            return None

    def place(self, shape: Shape) -> Affine:
        return multiply(self.sheet.viewport.affine(), world_of(self.session.document, shape.id))

    def shown(self) -> tuple[Mesh, Affine] | None:
        """The mesh in canvas pixels."""
        found = self.found()
        if found is None:
            return None
        m = self.place(found[0])
        return found[3].transformed(m), m

    def put(self, mesh: Mesh, label: str = "") -> None:
        """Show a changed mesh; with a label it is one step of undo."""
        found = self.found()
        if found is None:
            return
        shape, index, paint, _ = found
        document = recipes.edit_alike(
            self.session.document, [shape.id], index, shape.recipe[index], paint=to_paint(mesh, paint)
        )
        if label:
            self.session.apply(label, document)
        else:
            self.session.preview(document)
        self.sheet.update()

    def change(self, label: str, call: Callable[[Mesh], Mesh]) -> None:
        found = self.found()
        if found is None:
            self.session.say("select a shape with a mesh, or lay one first")
            return
        try:
            self.put(call(found[3]), label)
        except MeshError as problem:
            self.session.say(str(problem))
