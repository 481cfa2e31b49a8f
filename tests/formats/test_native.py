import io
import json
import os
import resource
import subprocess
import sys
import zipfile
from pathlib import Path

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from scenes import disc, document, feature_card, lit_trio
from volumen.demo import DEMOS
from volumen.edit import objects
from volumen.formats import native
from volumen.formats.files import FileProblem, write_atomically
from volumen.model.ingredients import CastShadow, Ingredient
from volumen.model.make import corner, path_form
from volumen.model.mending import mended
from volumen.model.nodes import Document, EllipseForm, Group, Shape, TextForm
from volumen.model.tree import chain_to, place_of, walk
from volumen.model.validate import DocumentError, validate


def archive(
    content: bytes, mime: bytes = native.MIME, name: str = "document.json", method: int = zipfile.ZIP_DEFLATED
) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as z:
        z.writestr("mimetype", mime)
        z.writestr(name, content)
    return out.getvalue()


def envelope(**root) -> bytes:
    data = json.loads(native.encode(document()))
    data["document"]["root"].update(root)
    return json.dumps(data).encode()


@pytest.mark.parametrize("make", [Document, lit_trio, feature_card])
def test_round_trip(make, tmp_path):
    doc, path = make(), tmp_path / "artwork.volumen"
    native.save(doc, path, b"preview")
    assert native.load(path) == doc


@given(st.lists(st.from_type(Ingredient), max_size=4), st.text(max_size=20), st.floats(-1e6, 1e6))
def test_any_recipe_round_trips(recipe, name, lift):
    doc = document(Shape(1, name, path_form(corner(0, 0), corner(9, 5)), tuple(recipe), lift=lift))
    try:
        made, notes = mended(doc)
    except DocumentError:  # what cannot be mended is refused in words
        with pytest.raises(FileProblem):
            native.decode(native.encode(doc), "x")
    else:
        validate(made)
        assert native.decode(native.encode(doc), "x") == made
        assert bool(notes) == (made != doc)


def test_what_older_versions_wrote_is_mended_and_it_is_said_what(tmp_path):
    """A hundred and ten nested groups, a coordinate beyond all sheets, an overlong text, an id used twice."""
    path = tmp_path / "old.volumen"
    deep = disc(1, 10, 10, 4)
    for i in range(2, 112):
        deep = Group(i, "g", (deep,), transform=(1, 0, 0, 1, 1, 0))
    far = Shape(200, "far", EllipseForm(3e9, 0, 10, 10), lift=5.0)
    words = Shape(201, "words", TextForm("w" * 20_001))
    twin = disc(201, 50, 50, 4)
    old = Document(root=Group(0, "pile", (deep, far, words, twin)), next_id=202)
    path.write_bytes(archive(native.encode(old)))
    document, notes = native.read(path)
    validate(document)
    said = " ".join(notes)
    assert "nested deeper" in said and "'far'" in said and "'words'" in said and "id of another" in said
    nodes = list(walk(document.root))
    inner = next(n for n in nodes if n.name == "disc 1")
    assert place_of(chain_to(document, inner.id))[4] == 110.0  # where it was
    assert next(n for n in nodes if n.name == "far").form.x == 1e9
    assert len(next(n for n in nodes if n.name == "words").form.text) == 20_000
    assert len({n.id for n in nodes}) == len(nodes)
    native.save(document, path)
    assert native.read(path) == (document, [])


def test_shipped_demo_files_are_what_the_scripts_make_and_come_back_as_they_are(tmp_path):
    import volumen.demo

    for name, (_, make) in DEMOS.items():
        doc, path = make(), tmp_path / "artwork.volumen"
        assert native.load(Path(volumen.demo.__file__).parent / f"{name}.volumen") == doc, "run make demos"
        native.save(doc, path, b"preview")
        assert native.load(path) == doc


def nested(depth: int) -> bytes:
    head, tail = b'{"type":"group","id":%d,"name":"g","children":[', b"]}"
    return (
        b'{"version":1,"document":{"root":'
        + b"".join(head % i for i in range(depth))
        + tail * depth
        + b',"next_id":9999999}}'
    )


good = native.encode(lit_trio())
GUIDE = b'{"type":"line","at":[1.0,1.0],"angle":0.0},'
_STOP = b'{"at":0.5,"colour":[1,0,0,1]}'
STOPS = (
    b'{"type":"fill","paint":{"type":"linear","stops":['
    + _STOP
    + (b"," + _STOP) * 599
    + b'],"start":[0,0],"end":[9,0]}},'
)
HOSTILE = {
    "empty file": (lambda: b"", "not a Volumen document|damaged"),
    "not a zip": (lambda: b"hello" * 100, "not a Volumen document"),
    "truncated": (lambda: archive(good)[:-300], "not a Volumen document"),
    "flipped bytes": (lambda: archive(good)[:200] + b"\x00\xff" * 40 + archive(good)[280:], "damaged"),
    "another type": (lambda: archive(good, b"application/zip"), "not a Volumen document"),
    "no content": (lambda: archive(good, name="other.json"), "must hold document.json once"),
    "compressed in another way": (lambda: archive(good, method=zipfile.ZIP_BZIP2), "stored or deflated"),
    "too many stops": (lambda: archive(good.replace(b'"recipe":[', b'"recipe":[' + STOPS, 1)), "600 stops"),
    "too many receivers": (lambda: archive(good.replace(b'"receivers":[]', b'"receivers":[' + b"1," * 600 + b"1]", 1)), "601 receivers"),
    "too many guides": (lambda: archive(good.replace(b'"guides":[]', b'"guides":[' + GUIDE * 1500 + GUIDE[:-1] + b"]", 1)), "1,501 guides"),
    "path tricks": (lambda: archive(good, name="../../document.json"), "must hold document.json once"),
    "not json": (lambda: archive(b"{]"), "damaged"),
    "wrong shape": (lambda: archive(b'{"version":1,"document":[]}'), "damaged"),
    "newer version": (lambda: archive(good.replace(b'"version":5', b'"version":99')), "newer Volumen"),
    "version zero": (lambda: archive(good.replace(b'"version":5', b'"version":0')), "never existed"),
    "not a number": (lambda: archive(good.replace(b'"lift":8.0', b'"lift":NaN')), "damaged"),
    "infinite": (lambda: archive(good.replace(b'"lift":8.0', b'"lift":1e999')), "damaged"),
    "text that is not UTF-8": (lambda: archive(good.replace(b"disc 1", b"disc\xff\xfe")), "damaged"),
    "a whole number beyond 64 bits": (lambda: archive(good.replace(b'"id":2', b'"id":99999999999999999999')), "damaged|beyond"),
    "an id without room for more": (lambda: archive(good.replace(b'"id":2', b'"id":2000000000')), "beyond"),
    "a million nested groups": (lambda: archive(nested(1_000_000)), "nested"),
    "three hundred and more levels": (lambda: archive(nested(600)), "nested"),
    "zip bomb": (lambda: archive(b" " * (300 * 2**20)), "unpacks to more|damaged"),
}  # fmt: skip


@pytest.mark.parametrize("case", HOSTILE)
def test_hostile_files_give_a_clear_message(case, tmp_path):
    make, message = HOSTILE[case]
    path = tmp_path / "hostile.volumen"
    path.write_bytes(make())
    with pytest.raises(FileProblem, match=message) as caught:
        native.load(path)
    assert "hostile.volumen" in str(caught.value)
    assert len(str(caught.value)) < 400


def test_hostile_files_need_little_memory_and_time(tmp_path):
    """The two heaviest in a process of their own, with 1.5 GB of address space and 4 s of processor time."""
    for case in ("zip bomb", "a million nested groups"):
        path = tmp_path / "hostile.volumen"
        path.write_bytes(HOSTILE[case][0]())
        code = f"from volumen.formats import native\nfrom pathlib import Path\nnative.load(Path({str(path)!r}))"

        def limits():
            resource.setrlimit(resource.RLIMIT_AS, (1_500_000_000, 1_500_000_000))
            resource.setrlimit(resource.RLIMIT_CPU, (4, 4))

        run = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, preexec_fn=limits)
        assert run.returncode == 1, run.stderr
        assert "FileProblem" in run.stderr


def test_loading_things_that_are_not_files(tmp_path):
    with pytest.raises(FileProblem, match="folder"):
        native.load(tmp_path)
    with pytest.raises(FileProblem, match="no such file"):
        native.load(tmp_path / "missing.volumen")
    os.mkfifo(tmp_path / "pipe.volumen")
    with pytest.raises(FileProblem, match="ordinary"):
        native.load(tmp_path / "pipe.volumen")


def test_a_failing_write_leaves_the_old_file(tmp_path):
    path = tmp_path / "artwork.volumen"
    native.save(lit_trio(), path)

    def broken(file):
        file.write(b"half")
        raise OSError(28, "No space left on device")

    with pytest.raises(FileProblem, match="disk is full"):
        write_atomically(path, broken)
    assert native.load(path) == lit_trio()
    assert [p.name for p in tmp_path.iterdir()] == ["artwork.volumen"]
    with pytest.raises(FileProblem, match="folder does not exist"):
        native.save(lit_trio(), tmp_path / "missing" / "a.volumen")
    with pytest.raises(FileProblem, match="that is a folder"):
        native.save(lit_trio(), tmp_path)


def test_clipboard_branches_round_trip_and_refuse_rubbish():
    doc = lit_trio()
    clips = native.decode_branches(native.encode_branches(objects.branches(doc, [1, 3])))
    pasted, made = objects.paste(doc, clips, 10)
    assert len(made) == 2
    assert objects.selection_box(pasted, [made[0]])[0] == pytest.approx(objects.selection_box(doc, [1])[0] + 10)
    with pytest.raises(FileProblem, match="clipboard"):
        native.decode_branches(b"[1, 2")


def test_documents_are_values():
    assert msgspec.structs.replace(lit_trio()) == lit_trio()
    assert isinstance(disc(1, 0, 0, 1), Shape)
    assert Group(1, "g").children == ()


def test_a_file_of_format_1_keeps_what_its_shadows_are_held_to(tmp_path):
    whole = json.loads(native.encode(lit_trio()))
    whole["version"] = 1
    shadows = []

    def go_back(part: object) -> None:
        for value in part.values() if isinstance(part, dict) else part if isinstance(part, list) else ():
            go_back(value)
        if isinstance(part, dict) and part.get("type") == "cast shadow":
            part.pop("receivers", None)
            part["receiver"] = None if shadows else 1
            shadows.append(part)

    go_back(whole)
    held = [
        i.receivers
        for n in walk(native.decode(json.dumps(whole).encode(), "old").root)
        for i in n.recipe
        if isinstance(i, CastShadow)
    ]
    assert sorted(held) == sorted([(1,), *[()] * (len(shadows) - 1)]) and held


def test_a_glow_of_format_2_keeps_its_far_colour():
    near, far = [1.0, 0.5, 0.0, 1.0], [0.0, 0.0, 1.0, 1.0]
    glow = {"type": "outer glow", "colour": near, "size": 9.0, "far": far}
    shape = {
        "type": "shape",
        "id": 1,
        "name": "s",
        "form": {"type": "rectangle", "x": 0, "y": 0, "width": 9, "height": 9},
        "recipe": [glow],
    }
    whole = json.loads(native.encode(lit_trio()))
    whole["version"], whole["document"]["root"]["children"] = 2, [shape]
    read = native.decode(json.dumps(whole).encode(), "old").root.children[0].recipe[0]
    assert [tuple(s.colour.rgb) for s in read.stops] == [tuple(near[:3]), tuple(far[:3])]


def test_older_lifts_and_shadow_lengths_become_the_objects_own():
    disc = Shape(
        1,
        "disc",
        EllipseForm(0, 0, 10, 10),
        (CastShadow(softness=4.0, length=6.0),),
        lift=8.0,
        transform=(2, 0, 0, 2, 0, 0),
    )
    old = Document(root=Group(0, "pile", (Group(2, "g", (disc,), transform=(2, 0, 0, 2, 5, 5), lift=3.0),)), next_id=3)
    data = native.encode(old).replace(b'"version":5', b'"version":3')
    group = native.decode(data, "old").root.children[0]
    inner = group.children[0]
    assert (group.lift, inner.lift) == (1.5, 2.0) and (inner.recipe[0].softness, inner.recipe[0].length) == (1.0, 1.5)
    assert native.decode(native.encode(old), "new") == old


def test_what_is_enlarged_beyond_any_picture_is_refused():
    for levels, scale, refused in ((45, 1e8, True), (90, 1.0, False), (3, 900.0, False), (4, 900.0, True)):
        node = disc(1, 10, 10, 5)
        for k in range(levels):
            node = Group(2 + k, "g", (node,), transform=(scale, 0, 0, scale, 0, 0))
        if refused:
            with pytest.raises(DocumentError, match="beyond what any picture can hold"):
                validate(document(node))
        else:
            validate(document(node))


def test_ingredients_of_a_newer_volumen_are_told_and_kept(tmp_path):
    doc = document(Group(3, "g", (disc(1, 40, 40, 20, CastShadow(), lift=4.0),)), disc(2, 100, 100, 20))
    plain = native.encode(doc)
    whole = json.loads(plain)
    newer = {"type": "shimmer", "on": True, "waves": [1, 2.5], "deep": {"a": None}}
    whole["document"]["root"]["children"][0]["children"][0]["recipe"].insert(1, newer)
    whole["document"]["root"]["children"][1]["recipe"] = [newer]
    path = tmp_path / "newer.volumen"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("mimetype", native.MIME)
        archive.writestr("document.json", json.dumps(whole))
    opened, notes = native.read(path)
    assert any("newer Volumen" in n and "shimmer" in n for n in notes)
    assert [i.kind for i in opened.later] == ["shimmer", "shimmer"]
    moved = objects.transform(opened, [1], (1, 0, 0, 1, 9, 0))
    native.save(moved, path)
    again, notes = native.read(path)
    assert again == moved and any("shimmer" in n for n in notes)
    assert json.loads(native.encode(again))["document"]["root"]["children"][1]["recipe"] == [newer]
    assert "shimmer" in native.encode(objects.delete(again, [2])).decode()
    assert "shimmer" not in native.encode(objects.delete(again, [1, 2, 3])).decode()
    assert native.decode(plain, "plain").later == ()
