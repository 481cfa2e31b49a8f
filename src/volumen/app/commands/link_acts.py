"""Linked copies."""

from __future__ import annotations

from volumen.app.commands.desk import Desk
from volumen.edit import links, motifs, objects
from volumen.geometry.affine import translation
from volumen.model.nodes import Group, Shape


class LinkActs:
    """Makes copies that stay alike, links objects and takes them apart again."""

    def __init__(self, desk: Desk) -> None:
        self.session = desk.session

    def copy_linked(self) -> None:
        s = self.session
        document, made = links.linked_copies(s.document, s.selection)
        s.apply("linked copy", objects.transform(document, made, translation(12, 12)))
        s.select(made)

    def copy_as_lines(self) -> None:
        """A linked copy as a line drawing, to the right of what it follows."""
        s = self.session
        document, made = links.linked_beside(s.document, s.selection)
        s.apply("linked copy, its lines only", objects.set_fields(document, made, lines_only=True))
        s.select(made)

    def keep_motif(self) -> None:
        """Keep the first selected object in the palette; the palette lays it along paths or on the sheet."""
        s, node = self.session, self.session.first
        if isinstance(node, Shape | Group):
            s.apply("keep motif", motifs.keep_motif(s.document, node.id))
            s.say(
                f"'{node.name}' is kept in the palette: click it there to use it, along a selected path or on its own"
            )
        else:
            s.say("a motif is a shape or a group; a reference picture cannot be one")

    def link(self) -> None:
        s = self.session
        s.apply("link", links.link(s.document, s.selection))
        s.say(f"{len(s.selection)} objects are linked: what is changed in one changes in all")

    def unlink(self) -> None:
        s = self.session
        s.apply("unlink", links.unlink(s.document, s.selection))

    def unlink_all(self) -> None:
        s = self.session
        s.apply("unlink all", links.unlink_all(s.document, s.selection))

    def select_linked(self) -> None:
        s = self.session
        s.select([i for n in s.selection for i in links.linked_with(s.document, n) or [n]])
