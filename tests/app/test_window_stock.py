"""Stock, inks and devices by hand: from the artwork to the cloth wall, the plates, the sticker and the files."""

import os
import signal

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image as Pillow
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog
from test_window_proof import hung, tick

from gestures import LEFT, paint_editor_of, put, type_into
from scenes import disc, document
from volumen.app.commands.photo_stock import open_photograph
from volumen.app.panels.device_choices import DeviceChoices
from volumen.app.panels.ink_fields import InkFields
from volumen.demo import DEMOS
from volumen.edit import points
from volumen.edit.inks import set_ink
from volumen.edit.objects import set_form
from volumen.edit.palette import add_swatches
from volumen.edit.print_check import faults
from volumen.formats.pdf.checker import press_findings
from volumen.geometry.affine import IDENTITY
from volumen.model.inks import Ink
from volumen.model.make import solid
from volumen.model.nodes import Image, RectangleForm, Shape
from volumen.model.tree import find, update_nodes, walk
from volumen.outline.outlines import outline
from volumen.shading.paint import colour, tinted
from volumen.stock.stocks import Plate, Stock, stock_bytes


def proofs(window, qtbot, *names):
    """Go to the Proof stage and tick just these, by hand."""
    window.session.set_stage(4)
    for name in list(window.session.proofing.shown):
        if name not in names:
            tick(window, name)
    for name in names:
        if name not in window.session.proofing.shown:
            tick(window, name)
    hung(qtbot, window.wall)


def choose(box, word):
    box.setCurrentText(word)
    box.activated.emit(box.currentIndex())


def pixels(image):
    return np.array(np.ndarray((image.height(), image.width(), 4), np.uint8, image.constBits()))[..., :3].astype(int)


def test_the_tote_from_artwork_to_cloth_wall_to_outputs(window, qtbot, tmp_path):
    """J03: all cloth colours at once, contrast worst first, a click goes there; a letter colour that does not read is
    changed and reads; a picture on the stock and a clear one at print resolution are written."""
    s, wall, panel = window.session, window.wall, window.proof
    s.open(DEMOS["tote"][1](), None, "tote")
    proofs(window, qtbot, "all colours")
    assert set(wall.on_stock.read) == {"natural", "navy", "black", "sea green", "rust"}
    pictures = [pixels(wall.on_stock.pictures["all colours", c]) for c in wall.on_stock.read]
    h, w = pictures[0].shape[:2]
    cloth = [p[round(h * 0.38), round(w * 0.3)] for p in pictures]
    assert len({tuple(c // 24) for c in cloth}) == 5, "each in its own colour"
    assert all("wall" not in find(s.document, r.node).name for found in wall.on_stock.read.values() for r in found)
    choose(panel.device, "contrast on the stock")
    rows = [panel.list.item(k).text() for k in range(panel.list.count())]
    assert rows[0].startswith("foot") and "on rust" in rows[0] and "below 3 : 1" in panel.summary.text()
    foot = next(n for n in walk(s.document.root) if n.name == "foot")
    QTest.mouseClick(panel.list.viewport(), LEFT, pos=panel.list.visualItemRect(panel.list.item(0)).center())
    assert s.selection == (foot.id,) and s.stage == 4
    s.apply("paler", replace_recipe(s.document, foot.id, solid("#f3e6c8")))
    s.set_stage(4)
    hung(qtbot, wall)
    rust = {r.node: r for r in wall.on_stock.read["rust"]}
    assert rust[foot.id].ratio > 3
    panel.form.set(kind="png", width=700)
    QTest.mouseClick(panel.form.ticks["stock"], LEFT, pos=QPoint(8, 8))
    panel.export_to(tmp_path / "bag.png")
    qtbot.waitUntil(lambda: panel.job is None, timeout=30000)
    with Pillow.open(tmp_path / "bag.png") as bag:
        assert bag.size == (700, 820)
    QTest.mouseClick(panel.form.ticks["stock"], LEFT, pos=QPoint(8, 8))
    panel.form.set(clear=True, width=0, dpi=150, of="selection")
    s.select((next(n for n in s.document.root.children if n.name == "print").id,))
    panel.export_to(tmp_path / "print.png")
    qtbot.waitUntil(lambda: panel.job is None, timeout=30000)
    with Pillow.open(tmp_path / "print.png") as made:
        assert made.info["dpi"] == pytest.approx((150, 150), abs=0.1) and made.getpixel((2, 2))[3] == 0


def replace_recipe(doc, node_id, *recipe):
    return update_nodes(doc, [node_id], lambda n: replace(n, recipe=recipe))


def test_stock_is_chosen_turned_by_the_lamp_and_outlives_a_worker(window, qtbot):
    s, wall, choices = window.session, window.wall, window.proof_choices.stock
    s.open(document(disc(1, 100, 100, 80, solid("#c8402a")), ground=None), None, "disc")
    proofs(window, qtbot, "stock")
    assert choices.underbase.isVisible() and "cotton bag" in wall._said("stock")
    bag = pixels(wall.on_stock.pictures["stock", "natural"])
    choose(choices.colours, "navy")
    QTest.mouseClick(choices.underbase, LEFT, pos=QPoint(8, 8))
    hung(qtbot, wall)
    dyed = pixels(wall.on_stock.pictures["stock", "navy"])
    middle = np.s_[dyed.shape[0] // 2 - 5 : dyed.shape[0] // 2 + 5, dyed.shape[1] // 2 - 5 : dyed.shape[1] // 2 + 5]
    assert s.proofing.ink == "dye" and dyed[middle].mean() < bag[middle].mean() - 30
    choose(choices.stocks, "enamel sign")
    hung(qtbot, wall)
    assert not choices.underbase.isVisible() and s.proofing.chosen_colour == "navy"
    before = pixels(wall.on_stock.pictures["stock", "navy"])
    s.apply("lamp", s.document.with_lights(replace(s.document.lights, key=replace(s.document.lamp, bearing=100.0))))
    hung(qtbot, wall)
    after = pixels(wall.on_stock.pictures["stock", "navy"])
    assert before.shape == after.shape and np.abs(before - after).mean() > 2
    os.kill(window.link.client.process.pid, signal.SIGKILL)
    wall.on_stock.pictures.clear()
    wall.refresh()
    qtbot.waitUntil(lambda: ("stock", "navy") in wall.on_stock.pictures and not wall._owed, timeout=30000)


def test_selections_own_sizes_and_own_stock(window, qtbot, tmp_path, monkeypatch):
    s, wall, choices = window.session, window.wall, window.proof_choices
    s.open(document(disc(1, 60, 100, 30, solid("#c8402a")), disc(2, 150, 100, 30), ground=None), None, "two")
    proofs(window, qtbot, "stock")
    both = pixels(wall.on_stock.pictures["stock", "natural"])
    s.select((1,))
    QTest.mouseClick(choices.alone, LEFT, pos=QPoint(8, 8))
    hung(qtbot, wall)
    red = pixels(wall.on_stock.pictures["stock", "natural"])
    is_red = [(p[..., 0] - p[..., 1] > 60).sum() for p in (both, red)]
    assert is_red[1] > 4 * is_red[0], "alone it fills the slot"
    QTest.mouseClick(choices.stock.own_size, LEFT, pos=QPoint(8, 8))
    hung(qtbot, wall)
    small = pixels(wall.on_stock.pictures["stock", "natural"])
    assert (small[..., 0] - small[..., 1] > 60).sum() < is_red[1] / 8, "16 mm on a slot of 248"
    QTest.mouseClick(choices.stock.own_size, LEFT, pos=QPoint(8, 8))
    path = tmp_path / "door.json"
    for text, words in (("{}", "no stock"), (None, "cannot be read")):
        path.unlink(missing_ok=True) if text is None else path.write_text(text)
        assert not choices.stock.load(path) and words in s.note and s.proofing.on.name == "cotton bag"
    path.write_bytes(stock_bytes(Stock("door plate", Plate(), 120, 60, {"green": "#204030"})))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    choose(choices.stock.stocks, "own stock …")
    hung(qtbot, wall)
    assert s.proofing.on.name == "door plate" and choices.stock.stocks.currentText() == "door plate"
    assert ("stock", "green") in wall.on_stock.pictures


def test_a_photograph_becomes_stock_by_dragging_its_points(window, qtbot, tmp_path):
    s, wall = window.session, window.wall
    s.open(document(disc(1, 100, 100, 90, solid("#c8402a")), ground=None), None, "disc")
    proofs(window, qtbot, "stock")
    Pillow.fromarray(np.full((300, 400, 3), 230, np.uint8)).save(tmp_path / "quay.png")
    assert open_photograph(window, tmp_path / "none.png", s.say, window.proof_choices.stock.use, s.proofing.on) is None
    assert "photograph" in s.note
    dialog = open_photograph(window, tmp_path / "quay.png", s.say, window.proof_choices.stock.use, s.proofing.on)
    hung(qtbot, wall)
    points = dialog.points
    assert s.proofing.on.name == "quay" and len(points.points) == 4
    start, end = points.at(2).toPoint(), QPoint(points.width() - 20, points.height() - 30)
    QTest.mousePress(points, LEFT, pos=start)
    QTest.mouseMove(points, end)
    QTest.mouseRelease(points, LEFT, pos=end)
    assert s.proofing.on.thing.points[2] == pytest.approx(
        (end.x() / points.width(), end.y() / points.height()), abs=0.01
    )
    choose(dialog.mesh, "sides too")
    QTest.keyClick(points, Qt.Key.Key_Space)
    QTest.keyClick(points, Qt.Key.Key_Left)
    assert len(s.proofing.on.thing.points) == 8 and points.held == 1
    QTest.mouseClick(dialog.pick, LEFT)
    QTest.mouseClick(points, LEFT, pos=QPoint(5, 5))
    assert s.proofing.on.thing.white == "#e6e6e6" and not points.picking
    hung(qtbot, wall)
    assert (pixels(wall.on_stock.pictures["stock", ""])[..., 0] > 180).any() and wall.on_stock.problem == ""
    type_into(dialog.wide, "2 * 150")
    assert s.proofing.on.width == 300 and "300 mm" in window.proof_choices.stock.own_size.toolTip()
    before = points.at(1)
    for word, count in (("mesh of 5 x 5", 25), ("mesh of 3 x 3", 9)):
        choose(dialog.mesh, word)
        assert len(s.proofing.on.thing.points) == count and points.at(1) == before
    points.move_to(0, 0.95, 0.95)
    hung(qtbot, wall)
    assert "clockwise" in wall._said("stock")
    choose(dialog.mesh, "mesh of 5 x 5")
    assert "clockwise" in s.note and dialog.mesh.currentText() == "mesh of 3 x 3"
    QTest.keyClick(dialog, Qt.Key.Key_Escape)
    assert s.proofing.on.name == "cotton bag", "who cancels has the stock of before"


def test_swatches_become_inks_with_names_tints_and_plates(window, qtbot):
    s = window.session
    doc, ids = add_swatches(document(), [("copper", colour("#b8683c")), ("night", colour("#26304f"))])
    put(window, Shape(1, "bar", RectangleForm(20, 20, 160, 60), (solid("#808080"),)))
    s.apply("swatches", replace(s.document, palette=doc.palette))
    s.set_stage(2)
    window.swatches.edit(ids[0])

    def fields():
        return window.swatches.findChildren(InkFields)[-1]

    QTest.mouseClick(fields().tick, LEFT, pos=QPoint(8, 8))
    assert s.document.palette.swatches[0].ink == Ink("copper")
    s.apply("second", set_ink(s.document, ids[1], Ink("Night")))
    for text, kept in (("Night", "copper"), ("   ", "copper"), ("Harbour copper", "Harbour copper")):
        name = fields().name
        name.setFocus()
        name.selectAll()
        QTest.keyClicks(name, text)
        QTest.keyClick(name, Qt.Key.Key_Return)
        assert s.document.palette.swatches[0].ink.name == kept
    type_into(fields().lab[0], "50")
    assert s.document.palette.swatches[0].ink.lab[0] == 50 and s.document.palette.swatches[0].colour != colour(
        "#b8683c"
    )
    QTest.mouseClick(fields().overprints, LEFT, pos=QPoint(8, 8))
    assert s.document.palette.swatches[0].ink.overprints
    s.select((1,))
    grid = window.swatches.grids[0]
    QTest.mouseClick(grid, LEFT, pos=grid.place(0).center())
    window.recipe.editor.toggle(0)
    editor = paint_editor_of(window)
    assert editor.tint.isVisible()
    type_into(editor.tint.number, "40")
    paint = find(s.document, 1).recipe[0].paint
    assert paint.tint == pytest.approx(0.4) and paint.colour == tinted(s.document.palette.swatches[0].colour, 0.4)
    proofs(window, qtbot, "plates")
    plates = window.proof_choices.plates
    assert [b.text() for b in plates][4:] == ["Harbour copper", "Night"]
    assert window.wall.inks["plates"].shape[-1] == 6
    for button in plates[:4]:
        QTest.mouseClick(button, LEFT)
    hung(qtbot, window.wall)
    shown = pixels(window.wall.images["plates"][0])
    assert (shown[shown.shape[0] // 2, 3] == 255).all() and s.proofing.hidden_plates == (0, 1, 2, 3)
    at = window.wall.places["plates"]
    seen = window.wall.view.shown(at, window.wall.size_of_sheet)[1]
    wide, high = window.wall.size_of_sheet
    window.wall.pointer = QPointF(seen.left() + seen.width() * 100 / wide, seen.top() + seen.height() * 50 / high)
    assert "Harbour copper 40" in window.wall._said("plates")
    for _ in range(20):
        s.undo()
    assert s.document.palette.swatches == ()


def test_devices_hang_on_the_wall_and_take_typed_numbers(window, qtbot):
    s, wall = window.session, window.wall
    hole = disc(2, 100, 100, 20, knockout=True)
    s.open(document(disc(1, 100, 100, 80, solid("#c8402a")), hole, ground=None), None, "ring")
    proofs(window, qtbot, "printed", "underbase", "cut out")
    assert set(wall.figures) >= {"underbase", "cut out"} and wall.problem == ""
    devices = window.proof_choices.findChild(DeviceChoices)
    white = wall.figures["underbase"]["white"]
    type_into(devices.fields["choke"], "1")
    type_into(devices.fields["gap"], "0.5 + 0.5")
    for text in ("99", "-1", "nonsense"):
        type_into(devices.fields["radius"], text)
    hung(qtbot, wall)
    assert s.proofing.printer.choke == 1 and wall.figures["underbase"]["white"] < white - 100
    assert s.proofing.cutter.gap == 1 and 0 <= s.proofing.cutter.radius <= 20
    type_into(devices.fields["astray"], "1")
    before = pixels(wall.images["printed"][0])
    hung(qtbot, wall)
    assert (pixels(wall.images["printed"][0]) != before).any()
    s.apply("nothing", document())
    hung(qtbot, wall)
    assert "nothing to" in wall._said("underbase") and "nothing to" in wall._said("cut out")


def test_the_press_prints_a_written_file_and_says_what_it_cannot(window, qtbot, tmp_path, monkeypatch):
    """A TIFF in inks with bleed and a PDF, both as they were written, whatever becomes of the artwork; wider and higher
    than the sheet by the bleed."""
    s, wall, panel = window.session, window.wall, window.proof
    plain = document(disc(1, 100, 100, 60, solid("#c8402a")), ground=colour("#ffffff"))
    s.open(replace(plain, sheet=replace(plain.sheet, width=300.0, bleed=3.0)), None, "disc")
    proofs(window, qtbot, "printed", "as drawn")
    for kind in ("pdf", "tif"):
        panel.form.set(kind=kind, inks=True, bleed=True, dpi=150, width=0)
        panel.export_to(tmp_path / f"disc.{kind}")
        qtbot.waitUntil(lambda: panel.job is None, timeout=30000)
    hung(qtbot, wall)
    drawn = pixels(wall.images["printed"][0])
    (tmp_path / "torn.pdf").write_bytes((tmp_path / "disc.pdf").read_bytes()[:300])
    devices = window.proof_choices.findChild(DeviceChoices)

    def print_file(name):
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / name) if name else "", ""))
        choose(devices.printed, "a file …")
        hung(qtbot, wall)

    for kind in ("pdf", "tif"):
        print_file(f"disc.{kind}")
        assert wall._said("printed") == f"disc.{kind}, 81 x 55 mm" and devices.printed.currentText() == f"disc.{kind}"
        s.apply("nothing", document(ground=colour("#ffffff")))
        hung(qtbot, wall)
        made = pixels(wall.images["printed"][0])
        h, w = made.shape[:2]
        assert w / h == pytest.approx(306 / 206, rel=0.02)
        inside, beside = made[h // 2, round(w * 103 / 306)], made[h // 2, round(w * 0.8)]
        assert inside[0] - inside[2] > 90 and beside.min() > 225, "the disc, and paper"
        s.undo()
    print_file("")
    assert s.proofing.written.endswith("disc.tif"), "who chooses none keeps the other"
    print_file("torn.pdf")
    assert "torn.pdf" in s.note and s.proofing.written.endswith("disc.tif")
    (tmp_path / "disc.tif").unlink()
    type_into(devices.fields["gain"], "9")
    hung(qtbot, wall)
    assert "cannot be read" in wall._said("printed")
    window._notice.hide()  # it takes room of the wall
    choose(devices.printed, "the artwork")
    type_into(devices.fields["gain"], "4")
    hung(qtbot, wall)
    assert s.proofing.written == "" and np.abs(pixels(wall.images["printed"][0]) - drawn).max() <= 1


def test_a_die_line_is_drawn_once_and_a_press_file_is_written(window, qtbot, tmp_path):
    s, panel = window.session, window.proof
    s.open(document(disc(1, 100, 100, 60)), None, "sticker")
    window.registry.run("object.die_line")
    window.registry.run("object.die_line")
    assert [n.name for n in s.document.root.children] == ["disc 1", "die line"] and len(
        s.document.palette.swatches
    ) == 1
    s.set_stage(4)
    QTest.mouseClick(panel.formats["pdf"], LEFT)
    QTest.mouseClick(panel.form.ticks["inks"], LEFT, pos=QPoint(8, 8))
    assert "PDF/X-4" in panel.note.text()
    panel.export_to(tmp_path / "sticker.pdf")
    qtbot.waitUntil(lambda: panel.job is None, timeout=30000)
    assert press_findings((tmp_path / "sticker.pdf").read_bytes()) == []
    s.undo()
    s.undo()
    assert [n.name for n in s.document.root.children] == ["disc 1"] and s.document.palette.swatches == ()


def test_a_die_line_follows_the_artwork_until_a_hand_moves_its_points(window, qtbot):
    s = window.session
    s.open(document(disc(1, 100, 100, 40), side=300.0), None, "sticker")
    window.registry.run("object.die_line")

    def line():
        return next(n for n in s.document.root.children if n.name == "die line")

    drawn = line()
    s.select((1,))
    window.activateWindow()
    QTest.keyClick(window.canvas, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: line() is not drawn, timeout=20000)
    step = s.document.root.children[0].transform[4]
    left = [outline(n, IDENTITY).bounds()[0] for n in (drawn, line())]
    assert step > 1 and left[1] == pytest.approx(left[0] + step, abs=0.4)
    s.undo()
    assert line() is drawn, "one step back, the line is back too"
    s.redo()
    by_hand, _ = points.add_point(line().form, 0, 0.5)
    s.apply("point", set_form(s.document, line().id, by_hand))
    kept = line()
    QTest.keyClick(window.canvas, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: window.link.idle and window.link._purity_asked is None, timeout=20000)
    qtbot.wait(600)
    assert line() is kept
    assert [f for f in faults(s.document, s.document.press, "cutter") if f.what == "die line"]


def test_a_scan_is_placed_and_put_straight_in_place(window, qtbot, tmp_path):
    s = window.session
    s.open(document(), None, "scan")
    rng = np.random.default_rng(2)
    tones = Pillow.fromarray(rng.integers(60, 220, (5, 6, 3)).astype(np.uint8)).resize(
        (360, 300), Pillow.Resampling.BICUBIC
    )
    tones.save(tmp_path / "sketch.png")
    placing = window.placing
    assert placing.scan_file(tmp_path / "sketch.png")
    node = s.nodes[0]
    assert isinstance(node, Image) and node.name == "scan of sketch" and s.selection == (node.id,)
    window.registry.run("file.straighten")
    made = find(s.document, node.id)
    assert made.asset != node.asset and made.width / made.height == pytest.approx(1.2, abs=0.02)
    assert made.width < node.width and len(s.document.assets) == 2
    window.registry.run("file.straighten")
    assert "no chart" in s.note and find(s.document, node.id) == made
    s.undo()
    assert find(s.document, node.id) == node
