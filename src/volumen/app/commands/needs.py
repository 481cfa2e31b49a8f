"""What commands need before they can act, each said in words where it is not met."""

from __future__ import annotations

from volumen.app.commands.clipboard import Clipboard
from volumen.app.commands.desk import Desk
from volumen.app.state.registry import Need
from volumen.edit import blends, rays
from volumen.edit.combine import to_combine
from volumen.model.ingredients import Line
from volumen.model.nodes import CombinedForm, Image, PathForm, RaysForm, Shape, TextForm
from volumen.model.tree import members, walk
from volumen.outline.outlines import form_changes


class Needs:
    """One of each kind; a command names the one it has."""

    def __init__(self, desk: Desk, clipboard: Clipboard) -> None:
        self.desk, self.session = desk, desk.session
        s = self.session
        self.any = Need(lambda: bool(s.selection), "select an object first")
        self.several = Need(lambda: len(s.selection) > 1, "select two or more objects first")
        self.to_unite = Need(
            lambda: bool(to_combine(s.document, s.selection, "union")),
            "select two or more objects, or one group, first",
        )
        self.one_shape = Need(lambda: s.only_shape is not None, "select one shape first")
        self.isolated_or_any = Need(
            lambda: bool(s.selection) or s.isolated is not None, "select the branch to work in first"
        )
        self.undo = Need(
            lambda: s.history.undo_label is not None or s.history.in_gesture or self._half_done(),
            "nothing was done yet",
        )
        self.redo = Need(lambda: s.history.redo_label is not None, "nothing was undone")
        self.recipe_clip = Need(
            lambda: bool(s.selection) and bool(clipboard.recipe), "copy a recipe, then select what shall get it"
        )
        self.children = Need(
            lambda: any(n.children for n in s.nodes), "select a group, or a shape that holds something"
        )
        self.linked = Need(lambda: any(n.link is not None for n in s.nodes), "select a linked copy first")
        self.linkable = Need(self._linkable, "select two or more shapes, or two or more groups")
        self.live = Need(self._live, "select something live: a form, a body, a shadow, text, a group")
        self.form = Need(
            self._has_form, "select a shape that is not plain points yet: an ellipse, text, a rounded path"
        )
        self.lines = Need(self._has_lines, "select something that has a line")
        self.combined = Need(
            lambda: any(isinstance(n, Shape) and isinstance(n.form, CombinedForm) for n in s.nodes),
            "select a live combination first",
        )
        self.rays_and_bound = Need(
            lambda: rays.rays_and_bound(s.nodes) is not None, "select rays and the object that shall bound them"
        )
        self.bounded_rays = Need(
            lambda: any(isinstance(n, Shape) and isinstance(n.form, RaysForm) and members(n) for n in s.nodes),
            "select rays that are bounded",
        )
        self.two_ends = Need(self._open_paths, "select two open paths, or one, whose ends shall be joined")
        self.image = Need(lambda: any(isinstance(n, Image) for n in s.nodes), "select a reference image first")
        self.text_and_path = Need(self._text_and_path, "select a text and a path")
        self.text_on_path = Need(self._text_on_path, "select one text that runs on a path")
        self.blend_and_path = Need(
            lambda: blends.blend_and_path(s.nodes) is not None, "select a stepped blend and an open path"
        )
        self.guides = Need(lambda: bool(s.document.guides), "there are no guides")
        self.swatches = Need(lambda: bool(s.document.palette.swatches), "the palette has no swatches yet")
        self.picture = Need(
            lambda: any(isinstance(n, Image) for n in walk(s.document.root)), "place a reference picture first"
        )

    def _half_done(self) -> bool:
        """Whether a tool has something begun that it can take back."""
        return bool(getattr(self.desk.canvas.tool, "points", ()))

    def _linkable(self) -> bool:
        kinds = {type(n) for n in self.session.nodes}
        return len(self.session.nodes) > 1 and len(kinds) == 1 and Image not in kinds

    def _live(self) -> bool:
        return any(
            n.recipe or n.children or (isinstance(n, Shape) and not isinstance(n.form, PathForm))
            for n in self.session.nodes
        )

    def _has_form(self) -> bool:
        return any(
            isinstance(n, Shape) and (not isinstance(n.form, PathForm) or bool(form_changes(n.recipe)))
            for n in self.session.nodes
        )

    def _has_lines(self) -> bool:
        return any(isinstance(i, Line) and i.on for n in self.session.nodes for b in walk(n) for i in b.recipe)

    def _open_paths(self) -> bool:
        nodes = self.session.nodes
        return 0 < len(nodes) < 3 and all(
            isinstance(n, Shape) and isinstance(n.form, PathForm) and any(not r.closed for r in n.form.runs)
            for n in nodes
        )

    def _text_and_path(self) -> bool:
        nodes = self.session.nodes
        texts = [n for n in nodes if isinstance(n, Shape) and isinstance(n.form, TextForm)]
        return len(nodes) == 2 and len(texts) == 1 and all(isinstance(n, Shape) for n in nodes)

    def _text_on_path(self) -> bool:
        form = getattr(self.session.only_shape, "form", None)
        return isinstance(form, TextForm) and form.path is not None
