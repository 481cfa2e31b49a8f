"""Moving, turning, mirroring and aligning the selection by number."""

from __future__ import annotations

from volumen.app.canvas.canvas import Canvas
from volumen.app.canvas.tools.move import MoveTool
from volumen.app.state.session import Session
from volumen.edit import arrange, links, objects, planes
from volumen.edit.arrange import Axis, Edge
from volumen.edit.planes import Plane
from volumen.geometry.affine import Affine, Point, mean_scale, mirroring
from volumen.geometry.path import Box

ALIGN_TO = ("the selection", "the first chosen", "the sheet")


class Arranger:
    """What the panel and the menu do to the selection."""

    def __init__(self, session: Session, canvas: Canvas) -> None:
        self.session, self.canvas = session, canvas

    def move_tool(self) -> MoveTool:
        """The Move tool, which knows the centre and the last transform."""
        tool = self.canvas.tools["move"]
        assert isinstance(tool, MoveTool)
        return tool

    def centre(self) -> Point | None:
        """The centre that turning acts about: the movable cross of the Move tool."""
        tool = self.move_tool()
        box = tool.selection_box()
        return tool.turn_centre(box) if box is not None else None

    def transform(self, label: str, m: Affine) -> None:
        s = self.session
        if not s.selection:
            s.say("select an object first")
            return
        document = objects.transform(s.document, s.selection, m)
        if s.keep_lengths:
            document = arrange.keep_lengths(document, s.selection, mean_scale(m))
        self.move_tool().last = m
        s.apply(label, document)

    def again(self) -> None:
        last = self.move_tool().last
        if last is not None:
            self.transform("transform again", last)

    def mirror(self, angle: float, copy: bool = False) -> None:
        about = self.centre()
        if about is None:
            return
        if copy:
            document, made = arrange.mirror_copy(self.session.document, self.session.selection, angle, about)
            self.session.apply("mirrored copy", document)
            self.session.select(made)
        else:
            self.transform("mirror", mirroring(angle, about))

    def lay_on(self, plane: Plane) -> None:
        """Lay what is drawn flat on a plane of an isometric cube."""
        s = self.session
        s.apply(f"lay on the {plane} plane", planes.laid_on_plane(s.document, s.selection, plane))

    def target_box(self, to: str) -> tuple[Box | None, int | None]:
        """The box to align with, and the object that stays."""
        s = self.session
        if to == ALIGN_TO[2]:
            return (0.0, 0.0, s.document.sheet.width, s.document.sheet.height), None
        if to == ALIGN_TO[1] and s.selection:
            return objects.selection_box(s.document, s.selection[:1]), s.selection[0]
        return objects.selection_box(s.document, s.selection), None

    def align(self, edge: Edge, to: str = ALIGN_TO[0]) -> None:
        box, keep = self.target_box(to if len(self.session.selection) > 1 else ALIGN_TO[2])
        if box is not None and self.session.selection:
            document = arrange.align(self.session.document, self.session.selection, edge, box, keep)
            self.session.apply(f"align {edge}", document)

    def distribute(self, axis: Axis, by: str, gap: float | None = None) -> None:
        document = arrange.distribute(
            self.session.document, self.session.selection, axis, "gaps" if by == "gaps" else "centres", gap
        )
        self.session.apply("distribute", document)

    def copies(
        self, count: int, angle: float | None, shift: Point, linked: bool = False, scale: float = 1.0, fade: float = 1.0
    ) -> None:
        about = self.centre()
        if about is None:
            self.session.say("select an object first")
            return
        s = self.session
        if linked:
            document, made = links.linked_steps(s.document, s.selection, count, about, angle, shift, scale)
        else:
            document, made = arrange.step_copies(s.document, s.selection, count, about, angle, shift, scale, fade)
        before = self.session.selection
        self.session.apply("step copies", document)
        self.session.select((*before, *made))
