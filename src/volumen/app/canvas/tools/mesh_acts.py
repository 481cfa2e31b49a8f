"""What the buttons of the Mesh tool do to the mesh in hand."""

from __future__ import annotations

import numpy as np

from volumen.app.canvas.sheet import ToolSheet
from volumen.app.canvas.tools.mesh_at_hand import Index, MeshAtHand
from volumen.app.state.news import News
from volumen.edit import meshes
from volumen.model.nodes import Shape
from volumen.shading import mesh_edit
from volumen.shading.mesh import Mesh, MeshError


class MeshActs(MeshAtHand):
    """The mesh in hand, and what buttons do to it and to its chosen points."""

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.corners: tuple[int, tuple[float, ...]] = (0, ())  # chosen on the outline of which shape

    def lay(self) -> None:
        self._lay("four-sided")

    def lay_ring(self) -> None:
        self._lay("ring")

    def lay_gradient(self) -> None:
        self._lay("gradient")

    def whole_row(self) -> None:
        self.choose(tuple((i, j) for i in dict.fromkeys(p[0] for p in self.points) for j in range(self._shape()[1])))

    def whole_column(self) -> None:
        self.choose(tuple((i, j) for j in dict.fromkeys(p[1] for p in self.points) for i in range(self._shape()[0])))

    def all_points(self) -> None:
        self.choose(tuple(np.ndindex(*self._shape())))

    def smooth(self) -> None:
        self.change("smooth mesh", lambda m: mesh_edit.smooth_handles(m, self.points))

    def straight(self) -> None:
        self.change("straighten mesh", lambda m: mesh_edit.straightened(m, self.points))

    def relax(self) -> None:
        self.change("relax mesh", lambda m: mesh_edit.relaxed(m, self.points))

    def crease(self) -> None:
        def turned(mesh: Mesh) -> Mesh:
            out = mesh_edit.freed(mesh, self.points)
            on = not all(mesh.crease[p] for p in self.points)
            for p in self.points:
                out.crease[p] = on
            return out

        self.change("crease", turned)

    def mirror(self) -> None:
        self.change("mirror mesh", mesh_edit.mirrored)

    def mend(self) -> None:
        self.change("mend folds", mesh_edit.mended)

    def take_out(self) -> None:
        """Take out the lines of the chosen points: a whole row if they lie in one, else their columns."""
        rows = {p[0] for p in self.points}
        columns = {p[1] for p in self.points}
        by_row = len(rows) == 1 and len(columns) > 1

        def thinner(mesh: Mesh) -> Mesh:
            for k in sorted(rows if by_row else columns, reverse=True):
                mesh = mesh_edit.remove_row(mesh, k) if by_row else mesh_edit.remove_column(mesh, k)
            return mesh

        self.change("take lines out", thinner)
        self.choose(())

    def choose(self, points: tuple[Index, ...]) -> None:
        self.session.mesh_points = points
        self.session.tell(News.ACTIVE)
        self.sheet.update()

    def _lay(self, kind: meshes.MeshKind) -> None:
        shape = self.session.only_shape
        if shape is None:
            self.session.say("select one shape to lay a mesh in")
            return
        columns, rows = int(self.values["columns"]), int(self.values["rows"])
        try:
            corners = self._chosen_corners(shape)
            document = meshes.make_mesh(self.session.document, shape.id, kind, columns, rows, corners)
        except MeshError as problem:
            self.session.say(str(problem))
            return
        self.corners = (0, ())
        self.choose(())
        self.session.apply("lay mesh", document)

    def _shape(self) -> tuple[int, int]:
        found = self.found()
        return (found[3].at.shape[0], found[3].at.shape[1]) if found else (0, 0)

    def _chosen_corners(self, shape: Shape) -> tuple[float, ...]:
        return self.corners[1] if self.corners[0] == shape.id else ()
