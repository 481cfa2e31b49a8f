"""Freezing: live ingredients become plain shapes with plain paints that no lamp changes any more."""

from __future__ import annotations

import msgspec

from volumen.build.outline import outline
from volumen.build.picture import FillPath, Item, Soft, StrokePath
from volumen.build.recipe import gradient_of, sliver_paint, sliver_path
from volumen.build.scene import soft_items
from volumen.geometry.affine import IDENTITY, Affine, Floats, Point, invert, mean_scale, multiply, translation
from volumen.geometry.engine import simplified
from volumen.geometry.path import Path
from volumen.model.ingredients import Blur, Body, Fill, Ingredient, Line, Sliver
from volumen.model.nodes import Document, Group, Node, PathForm, PathPoint, PathRun, Shape
from volumen.model.tree import find, parent_of, replace_nodes, walk, world_of
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Solid

replace = msgspec.structs.replace


def path_form(path: Path) -> PathForm:
    """A path as editable points. Handles that run straight through a point make it smooth."""
    runs = []
    if path.evenodd:  # forms are filled by the nonzero rule
        path = simplified(path)
    for contour in path.contours:
        p = contour.points
        n = (len(p) - 1) // 3
        count = n if contour.closed else n + 1
        points = []
        for i in range(count):
            at = p[3 * i]
            arrive = p[3 * i - 1] if i > 0 else (p[3 * n - 1] if contour.closed and n else at)
            leave = p[3 * i + 1] if i < n else at
            points.append(
                PathPoint(_pair(at), _pair(arrive), _pair(leave), _is_smooth(_pair(at), _pair(arrive), _pair(leave)))
            )
        runs.append(PathRun(tuple(points), contour.closed))
    return PathForm(tuple(runs))


def _pair(p: Floats) -> Point:
    return (float(p[0]), float(p[1]))


def _is_smooth(at: Point, arrive: Point, leave: Point) -> bool:
    ax, ay, bx, by = at[0] - arrive[0], at[1] - arrive[1], leave[0] - at[0], leave[1] - at[1]
    la, lb = (ax * ax + ay * ay) ** 0.5, (bx * bx + by * by) ** 0.5
    return bool(la > 1e-9 and lb > 1e-9 and (ax * bx + ay * by) / (la * lb) > 0.9999)


def to_path(document: Document, node_id: int) -> Document:
    """A primitive's form as editable points; its recipe stays live."""
    node = find(document, node_id)
    if not isinstance(node, Shape) or isinstance(node.form, PathForm):
        return document
    return replace_nodes(document, {node_id: replace(node, form=path_form(outline(node.form)))})


def freeze(document: Document, node_id: int) -> Document:
    """Replace a node by plain shapes that look the same; one without live ingredients stays as it is.

    Bodies become gradient fills, slivers and shadows shapes of their own (soft ones with a blur), all in a
    group of the node's name, or in the shape itself where that suffices. A group freezes with all in it.
    """
    node = find(document, node_id)
    if isinstance(node, Group):
        return _freeze_group(document, node)
    if not isinstance(node, Shape):
        return document
    world = world_of(document, node_id)
    maker = _Freezer(document, node)
    frozen = maker.shape(node, world)
    parent = parent_of(document, node_id)
    outer = world_of(document, parent.id) if parent else IDENTITY
    behind = maker.behind(soft_items(document, node_id), outer)
    result: Node = frozen
    if behind:
        result = Group(maker.take(), node.name, (*behind, replace(frozen, transform=node.transform)))
    document = replace_nodes(document, {node_id: result})
    return replace(document, next_id=maker.next_id)


def _freeze_group(document: Document, group: Group) -> Document:
    softs = soft_items(document, group.id)
    for shape in [n for n in walk(group) if isinstance(n, Shape)]:
        document = freeze(document, shape.id)
    frozen = find(document, group.id)
    if frozen is None or not softs:
        return document
    maker = _Freezer(document, group)
    parent = parent_of(document, group.id)
    behind = maker.behind(softs, world_of(document, parent.id) if parent else IDENTITY)
    plain = replace(frozen, recipe=tuple(i for i in frozen.recipe if isinstance(i, Blur)))
    document = replace_nodes(document, {group.id: Group(maker.take(), group.name, (*behind, plain))})
    return replace(document, next_id=maker.next_id)


class _Freezer:
    def __init__(self, document: Document, node: Node) -> None:
        self.node = node
        self.lamp: Lamp = document.lamp
        self.next_id = document.next_id

    def take(self) -> int:
        self.next_id += 1
        return self.next_id - 1

    def shape(self, node: Shape, world: Affine) -> Shape:
        """The shape itself: plain fills and lines, its slivers as shapes held inside it."""
        box = outline(node.form).bounds()
        recipe: list[Ingredient] = []
        slivers: list[Node] = []
        for i in node.recipe:
            if not i.on:
                continue
            if isinstance(i, Body) and box is not None:
                recipe.append(Fill(gradient_of(i, node, box, self.lamp, world), i.opacity, i.blend))
            elif isinstance(i, Sliver):
                slivers.extend(self._sliver(node, i, world))
            elif isinstance(i, Fill | Line | Blur):
                recipe.append(i)
        return replace(node, recipe=tuple(recipe), children=(*node.children, *slivers))

    def _sliver(self, node: Shape, i: Sliver, world: Affine) -> list[Node]:
        cut = sliver_path(i, outline(node.form), world, self.lamp)
        if not cut:
            return []
        recipe: tuple[Ingredient, ...] = (Fill(sliver_paint(i)),)
        if i.feather > 0:
            recipe += (Blur(i.feather),)
        name = f"{node.name}, {i.kind}"
        return [Shape(self.take(), name, path_form(cut), recipe, opacity=i.opacity, blend=i.blend)]

    def behind(self, softs: tuple[Item, ...], parent: Affine) -> list[Node]:
        """Shadows and glows as blurred groups of plain shapes; ``parent`` maps their new parent to the sheet."""
        back = invert(parent)
        if back is None:
            return []
        out: list[Node] = []
        for soft in softs:
            if not isinstance(soft, Soft):
                continue
            paint = Solid(soft.colour)
            move = multiply(back, translation(*soft.offset))
            parts: list[Node] = []
            for item in soft.items:
                if isinstance(item, FillPath | StrokePath):
                    look: Ingredient = Fill(paint)
                    if isinstance(item, StrokePath):
                        look = Line(paint, item.width, item.cap, item.join, item.miter)
                    form, place = path_form(item.path), multiply(move, item.transform)
                    parts.append(Shape(self.take(), "outline", form, (look,), transform=place))
            blur = (Blur(soft.sigma / (mean_scale(parent) or 1.0)),) if soft.sigma > 0 else ()
            name = f"{self.node.name}, soft"
            node: Node = Group(self.take(), name, tuple(parts), blur, opacity=soft.opacity, blend=soft.blend)
            if soft.clip is not None:
                place = multiply(back, soft.clip.transform)
                inside = invert(place) or IDENTITY
                held = replace(node, transform=inside)
                node = Shape(self.take(), name, path_form(soft.clip.path), (), (held,), place)
            out.append(node)
        return out
