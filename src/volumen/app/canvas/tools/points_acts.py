"""What the buttons of the Points tool do to the points in hand."""

from __future__ import annotations

from collections.abc import Callable

from volumen.app.canvas.sheet import ToolSheet
from volumen.app.canvas.tools.base import Tool
from volumen.edit import objects
from volumen.edit import points as edit
from volumen.edit.plain_forms import plain_shape
from volumen.edit.points import Place
from volumen.geometry.affine import Affine, multiply
from volumen.model.nodes import CombinedForm, Document, PathForm, Shape, TextForm
from volumen.model.tree import update_nodes, world_of


class PointsActs(Tool):
    """The points in hand on the selected path, and what buttons do to them."""

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.chosen: list[Place] = []
        self.owner: int | None = None

    def target(self) -> tuple[Shape, PathForm, Affine] | None:
        """The selected shape, its form as a path, and the map from it to the canvas."""
        shape = self.session.only_shape
        if shape is None or (isinstance(shape.form, TextForm) and shape.form.path is None):
            return None
        if self.owner != shape.id:
            self.owner, self.chosen = shape.id, []
        world = world_of(self.session.document, shape.id)
        form = shape.form
        if isinstance(form, TextForm) and form.path is not None:
            form = form.path
        elif not isinstance(form, PathForm):
            if isinstance(form, CombinedForm):
                return None
            plain = plain_shape(objects.without_changes(shape), world)
            assert isinstance(plain.form, PathForm)
            form = plain.form
        count = [len(r.points) for r in form.runs]
        self.chosen = [(r, i) for r, i in self.chosen if r < len(count) and i < count[r]]
        return shape, form, multiply(self.sheet.viewport.affine(), world)

    def make_corner(self) -> None:
        self._edit("corner points", lambda f: edit.set_kind(f, self.chosen, "corner"))

    def make_smooth(self) -> None:
        self._edit("smooth points", lambda f: edit.set_kind(f, self.chosen, "smooth"))

    def make_symmetric(self) -> None:
        self._edit("symmetric points", lambda f: edit.set_kind(f, self.chosen, "symmetric"))

    def cut(self) -> None:
        self._edit("break path", lambda f: edit.break_at(f, self.chosen))
        self.chosen = []

    def join(self) -> None:
        self._edit("join ends", lambda f: edit.join(f, self.chosen or edit.open_ends(f)))
        self.chosen = []

    def start_here(self) -> None:
        if self.chosen:
            self._edit("choose start", lambda f: edit.start_at(f, self.chosen[0]))
            self.chosen = [(self.chosen[0][0], 0)]

    def align_x(self) -> None:
        self._edit("align points", lambda f: edit.align_points(f, self.chosen, 0))

    def align_y(self) -> None:
        self._edit("align points", lambda f: edit.align_points(f, self.chosen, 1))

    def onto_line(self) -> None:
        self._edit("points onto a line", lambda f: edit.average_onto_line(f, self.chosen))

    def space_x(self) -> None:
        self._edit("distribute points", lambda f: edit.distribute_points(f, self.chosen, 0))

    def space_y(self) -> None:
        self._edit("distribute points", lambda f: edit.distribute_points(f, self.chosen, 1))

    def reverse(self) -> None:
        self._edit("reverse path", edit.reverse)

    def simplify(self) -> None:
        self._fewer("simplify", lambda f: edit.simplified(f, self.values["tolerance"]))

    def tidy(self) -> None:
        self._fewer("drop needless points", edit.tidied)

    def _edit(self, label: str, change: Callable[[PathForm], PathForm]) -> None:
        found = self.target()
        if found is None:
            self.session.say("select one shape first")
        elif (form := change(found[1])) is not found[1]:
            self._apply(label, form)

    def _fewer(self, label: str, change: Callable[[PathForm], PathForm]) -> None:
        found = self.target()
        if found is None:
            return
        form = change(found[1])
        before, after = edit.count(found[1]), edit.count(form)
        self.chosen = []
        self._apply(label, form)
        self.session.say(f"{before} points before, {after} now")

    def _apply(self, label: str, form: PathForm | None) -> None:
        found = self.target()
        if found is not None:
            self.session.apply(label, self._put(self.session.document, found[0], form))
            self.sheet.update()

    def _put(self, document: Document, shape: Shape, form: PathForm | None) -> Document:
        if form is None:
            return objects.delete(document, [shape.id])
        if isinstance(shape.form, TextForm):
            return update_nodes(
                document, [shape.id], lambda n: objects.replace(n, form=objects.replace(n.form, path=form))  # type: ignore[union-attr]
            )  # fmt: skip
        return objects.set_form(document, shape.id, form)
