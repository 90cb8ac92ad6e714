"""The command line as a script uses it: exit codes, one line of error, nothing half written."""

import json
import os
import re
import subprocess
import sys
import zipfile
from contextlib import redirect_stderr, redirect_stdout
from hashlib import sha256
from io import StringIO
from pathlib import Path

import pytest

from kaigata.cli.main import run
from kaigata.core.formats import drawing_files
from kaigata.core.markup import assembly as markup_assembly
from kaigata.core.processes import CUTTING, NESTING, READING, begin_loading
from tests.checks import DATA, NEST, PARTS, TESTS, checked
from tests.solids import box, round_bar, write_step

ROOT = TESTS.parent
DEMO = ROOT / "demo" / "order.json"


@pytest.fixture(scope="module", autouse=True)
def _loaded():
    begin_loading(READING, NESTING, CUTTING)


def kaigata(*words):
    """What a command line answers, given in this process: one of its own takes seconds to begin."""
    words = [str(word) for word in words]
    out, err = StringIO(), StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        code = run(words)
    return subprocess.CompletedProcess(words, code, out.getvalue(), err.getvalue())


def in_a_process(*words):
    """What a command line answers as a script gives it."""
    return subprocess.run(
        [sys.executable, "-m", "kaigata.cli", *map(str, words)],
        capture_output=True,
        text=True,
        check=False,
        cwd=ROOT,
        env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
    )


def refused(code, said, out):
    """What a command said that ended with 2, one line of error and nothing written."""
    lines = said.strip().splitlines()
    assert (code, len(lines), out.exists()) == (2, 1, False), said
    return lines[0]


def test_an_assembly_gives_a_blank_for_each_part(tmp_path):
    done = kaigata("blank", PARTS / "stand.step", "--k", 0.33, "--out", tmp_path)

    assert done.returncode == 0
    assert checked("blank_check.py", PARTS / "stand.truth.json", tmp_path).startswith("ok")
    assert "base-foot: " in done.stdout
    for part in ("base-foot", "hanger-arm", "tool-tray"):
        assert (tmp_path / f"{part}.pdf").read_bytes().startswith(b"%PDF-1")


def test_sheets_of_a_drawing_are_written_as_files_of_their_own(tmp_path):
    recipe = ROOT / "demo" / "parts" / "bolt-tray.json"
    kinds = ("--sheets", "svg", "--sheets", "dxf", "--views")
    done = kaigata("blank", recipe, *kinds, "--out", tmp_path, "--json")
    assert done.returncode == 0, done.stderr
    files = json.loads(done.stdout)["files"]
    sheets = {f"Bolt-tray-sheet-{n}.{kind}" for n in (1, 2) for kind in ("svg", "dxf")}
    assert {"Bolt-tray.pdf", *sheets} <= {*files}
    assert "first angle" in (tmp_path / "Bolt-tray-sheet-2.svg").read_text()
    assert "<image " in (tmp_path / "Bolt-tray-sheet-1.svg").read_text()
    assert all((tmp_path / name).stat().st_size for name in files)
    kaigata("blank", recipe, "--sheets", "svg", "--lines", "--out", tmp_path)
    assert "<image " not in (tmp_path / "Bolt-tray-sheet-1.svg").read_text()


def test_a_block_gives_the_recipe_of_its_shell(tmp_path):
    write_step(box(0, 0, 0, 200, 100, 60), tmp_path / "block.step")
    out = tmp_path / "out"
    done = kaigata("shell", tmp_path / "block.step", "--thickness", 1.5, "--out", out)
    assert (done.returncode, done.stderr) == (0, "")
    assert done.stdout.startswith("block: Begin with the shell block of a solid of 6 faces")

    done = kaigata("blank", out / "block.json", "--k", 0.44, "--out", out)
    assert done.returncode == 0
    assert done.stdout.startswith("block: 311.08 x 308.47 mm, 1.5 thick, 5 bends, 0 holes")

    write_step(round_bar((0, 0, 0), (0, 0, 1), 20, 50), tmp_path / "bar.step")
    done = kaigata("shell", tmp_path / "bar.step", "--thickness", 1.5, "--out", tmp_path / "none")
    said = refused(done.returncode, done.stderr, tmp_path / "none")
    assert said.startswith("kaigata: bar.step: near x ")
    assert "is curved" in said


def test_a_recipe_gives_a_blank_as_a_solid_does(tmp_path):
    recipe = ROOT / "demo" / "parts" / "bolt-tray.json"
    done = kaigata("blank", recipe, "--k", 0.44, "--out", tmp_path)

    assert (done.returncode, done.stderr) == (0, "")
    blank = json.loads((tmp_path / "Bolt-tray.blank.json").read_text())
    # Over both lips and the base: outside lengths less four deductions of 90 degrees, R 1.5 in 1.5.
    assert blank["width"] == pytest.approx(180 + 2 * (30 + 12) - 4 * 2.607080, abs=1e-5)
    assert (blank["thickness"], len(blank["bends"]), len(blank["holes"])) == (1.5, 7, 6)
    assert not [f for f in blank["findings"] if f["level"] != "note"]
    dxf = tmp_path / "Bolt-tray.dxf"
    assert checked("dxf_check.py", dxf, "--blank", tmp_path / "Bolt-tray.blank.json").startswith(
        "ok"
    )


def test_the_solid_of_a_recipe_unfolds_to_its_blank(tmp_path):
    recipe = ROOT / "demo" / "parts" / "bolt-tray.json"
    done = kaigata("blank", recipe, "--solid", "--out", tmp_path / "one", "--json")
    assert (done.returncode, done.stderr) == (0, "")
    assert "Bolt-tray.step" in json.loads(done.stdout)["files"]

    again = kaigata("blank", tmp_path / "one" / "Bolt-tray.step", "--out", tmp_path / "two")
    assert again.returncode == 0
    one, two = (
        json.loads((tmp_path / folder / "Bolt-tray.blank.json").read_text())
        for folder in ("one", "two")
    )
    sides = [sorted((b["width"], b["height"])) for b in (one, two)]
    assert sides[0] == pytest.approx(sides[1], abs=1e-3)
    assert one["area"] == pytest.approx(two["area"], rel=1e-5)
    assert len(one["bends"]) == len(two["bends"])


def test_a_drawn_flat_has_no_solid_to_write(tmp_path):
    flat = TESTS / "data" / "dxf" / "o1-base-plate-r12.dxf"
    done = kaigata("blank", flat, "--units", "mm", "--solid", "--out", tmp_path)
    assert done.returncode == 3
    assert "a drawing of a flat does not say how it is folded; Leave out --solid" in done.stdout
    assert list(tmp_path.glob("*.blank.json"))
    assert not list(tmp_path.glob("*.step"))


def test_a_recipe_that_cannot_be_followed_is_one_line_with_its_step(tmp_path, capsys):
    said = json.loads((ROOT / "demo" / "parts" / "bolt-tray.json").read_text())
    said["dimensions"]["height"] = 2
    path = tmp_path / "flat-tray.json"
    path.write_text(json.dumps(said))
    code = run(["blank", str(path), "--out", str(tmp_path / "out")])
    line = refused(code, capsys.readouterr().err, tmp_path / "out")
    assert line.startswith("kaigata: flat-tray.json: step 2 (flange): the flange is 2 mm long")


def test_without_a_right_drawing_the_blank_is_done_in_part(tmp_path, monkeypatch, capsys):
    monkeypatch.setattr(drawing_files, "differences", lambda *a: ["the width is written 3 mm"])

    code = run(["blank", str(PARTS / "sign-plate.step"), "--out", str(tmp_path / "out")])

    assert code == 3
    assert "refused: sign-plate: its drawing is not as the part is" in capsys.readouterr().out
    assert sorted(p.suffix for p in (tmp_path / "out").iterdir()) == [".csv", ".dxf", ".json"]


def test_json_is_all_that_stands_on_standard_output(tmp_path):
    done = in_a_process("blank", PARTS / "sign-plate.step", "--out", tmp_path, "--json")

    assert json.loads(done.stdout)["parts"][0]["part"] == "sign-plate"


@pytest.mark.parametrize(
    ("words", "text"),
    [
        (["blank", "nowhere.step"], "kaigata: nowhere.step: there is no such file"),
        (["blank", DATA / "dxf" / "o8-empty.dxf"], "kaigata: o8-empty.dxf: nothing is drawn"),
        (["blank", DATA / "dxf" / "o5-tray-inch.dxf"], "as inches 203.20 x 152.40 mm"),
        (["blank", DATA / "dxf" / "README.md"], "files of kind '.md' are not read"),
        (["blank", PARTS / "hose-clip.step", "--k", 7], "kaigata: hose-clip.step: K is 7"),
        (["blank", PARTS / "hose-clip.step", "--anchor", 44], "there is no panel 44"),
        (["blank", PARTS / "hose-clip.step", "--material", "tin"], "no material 'tin'"),
        (["blank", PARTS / "hose-clip.step", "--frobnicate"], "No such option"),
        (["nest", PARTS / "hose-clip.step"], "hose-clip.step: it is no JSON"),
        (["cut", NEST / "mix-20.json"], "kaigata: mix-20.json"),
    ],
)
def test_unusable_input_is_one_line_and_nothing_written(words, text, tmp_path, capsys):
    out = tmp_path / "out"

    code = run([*map(str, words), "--out", str(out)])

    said = refused(code, capsys.readouterr().err, out)
    assert said.startswith("kaigata:")
    assert text in said


ORDER = {
    "spacing": 5, "margin": 5,
    "sheets": [{"id": "s", "width": 500, "height": 300, "count": 1, "thickness": 1.5}],
    "parts": [{"id": "p", "quantity": 2, "outer": [[0, 0], [90, 0], [90, 40], [0, 40]],
               "thickness": 1.5}],
}  # fmt: skip


def with_part(**change):
    return {**ORDER, "parts": [{**ORDER["parts"][0], **change}]}


@pytest.mark.parametrize(
    ("order", "text"),
    [
        (with_part(quantity=-3), "$.parts[0].quantity is -3"),
        (with_part(outer=[[0, 0], [9, 9], [9, 0], [0, 9]]), "crosses itself"),
        (with_part(outer=[[0, 0], [1e999, 0], [9, 9]]), "finite number"),
        (with_part(outer=None, file="gone.step"), "gone.step"),
        (with_part(outer=None, blank="gone.blank.json"), "gone.blank.json: there is no such file"),
        (with_part(id=""), "$.parts[0].id"),
        (with_part(holes=[[[80, 9], [99, 9], [99, 20]]]), "$.parts[0].holes[0] (p): the hole reac"),
        (
            with_part(holes=[[[9, 9], [30, 9], [9, 30]], [[9, 9], [30, 9], [9, 20]]]),
            "$.parts[0].holes[1] (p): the hole runs into holes[0] at",
        ),
        (with_part(outer=[[0, 0], [9e6, 0], [9, 9]]), "measures 9e+06 x 9 mm"),
        (with_part(turns=[]), "$.parts[0] (p).turns: no turn is allowed"),
        (with_part(blank="x.blank.json"), "contours and a blank"),
        (
            {**ORDER, "sheets": [{**ORDER["sheets"][0], "outline": [[0, 0], [600, 0], [0, 300]]}]},
            "$.sheets[0].outline (s): the outline reaches",
        ),
        ({**ORDER, "spacing": 4000}, "spacing of 4000 mm leaves no room"),
        ({**ORDER, "sheets": []}, "$.sheets"),
        ({**ORDER, "parts": "all"}, '$.parts is "all"'),
    ],
)
@pytest.mark.parametrize("word", ["nest", "packet"])
def test_bad_orders_say_what_and_where(word, order, text, tmp_path, capsys):
    path, out = tmp_path / "order.json", tmp_path / "out"
    path.write_text(json.dumps(order))

    code = run([word, str(path), "--out", str(out), "--steps", "1"])

    said = refused(code, capsys.readouterr().err, out)
    assert said.startswith("kaigata: order.json: ")
    # A nest needs contours: a file is a matter of the packet.
    assert text in said or "no contour" in said


def test_a_megabyte_of_zeros_is_refused_everywhere(tmp_path):
    zeros = tmp_path / "zeros.json"
    zeros.write_bytes(bytes(2**20))
    step = tmp_path / "zeros.step"
    step.write_bytes(bytes(2**20))

    # In a process of its own also what the geometry kernel writes past Python would show.
    asked = [(kaigata, word, zeros) for word in ("nest", "cut", "packet")]
    for way, word, path in (*asked, (in_a_process, "blank", step)):
        done = way(word, path, "--out", tmp_path / "out")
        assert refused(done.returncode, done.stderr, tmp_path / "out")


def test_a_part_too_large_is_told_and_the_rest_is_written(tmp_path):
    large = {"id": "roof", "outer": [[0, 0], [900, 0], [900, 400], [0, 400]], "thickness": 1.5}
    path = tmp_path / "order.json"
    path.write_text(json.dumps({**ORDER, "parts": [*ORDER["parts"], large]}))

    done = kaigata("nest", path, "--out", tmp_path / "out", "--steps", 1)

    assert done.returncode == 3
    assert "did not fit: 1 x roof: larger than every sheet of 1.5" in done.stdout
    assert checked("nest_check.py", path, tmp_path / "out" / "nest.json").startswith("ok")
    written = {p.name for p in (tmp_path / "out").iterdir()}
    assert written == {"nest.json", "sheet-1.dxf", "sheet-1.svg", "report.html"}


def test_an_order_in_inches_is_nested_and_cut_in_millimetres(tmp_path):
    inches = {
        "units": "in", "spacing": 0.25, "margin": 0.5,
        "sheets": [{"id": "s", "width": 48, "height": 24, "count": 1, "thickness": 1.5}],
        "parts": [{"id": "p", "quantity": 4, "thickness": 1.5, "turns": [0, 90],
                   "outer": [[0, 0], [5, 0], [5, 3.5], [0, 3.5]]}],
    }  # fmt: skip
    path = tmp_path / "order.json"
    path.write_text(json.dumps(inches))

    assert kaigata("nest", path, "--out", tmp_path, "--steps", 1).returncode == 0
    assert checked("nest_check.py", path, tmp_path / "nest.json").startswith("ok")
    cut = kaigata("cut", tmp_path / "nest.json", "--out", tmp_path / "cut", "--kerf", 0.3)
    assert cut.returncode == 0, cut.stderr
    line = checked("gcode_check.py", tmp_path / "nest.json", path, tmp_path / "cut", "--kerf", 0.3)
    assert line.startswith("ok")


def test_the_kerf_an_order_in_inches_names_is_in_inches(tmp_path):
    path = tmp_path / "order.json"
    path.write_text(json.dumps({
        "units": "in", "spacing": 0.25, "margin": 0.5, "cut": {"kerf": 0.01, "skeleton": 12},
        "sheets": [{"id": "s", "width": 48, "height": 24, "count": 1, "thickness": 1.5}],
        "parts": [{"id": "p", "quantity": 4, "thickness": 1.5, "turns": [0, 90],
                   "outer": [[0, 0], [5, 0], [5, 3.5], [0, 3.5]]}],
    }))  # fmt: skip

    done = kaigata("packet", path, "--out", tmp_path / "out", "--time", 1)

    assert done.returncode == 0, done.stderr
    nest = tmp_path / "out" / "nest" / "nest.json"
    assert kaigata("cut", nest, "--out", tmp_path / "cut").returncode == 0
    for cut in (tmp_path / "out" / "cut", tmp_path / "cut"):
        line = checked("gcode_check.py", nest, path, cut, "--kerf", 0.254, "--allow", "stray")
        assert line.startswith("ok"), line
        pieces = json.loads((cut / "cut.json").read_text())["sheets"][0]["skeleton"]
        assert len(pieces) < 12


@pytest.mark.parametrize("words", [("--comp", "machine"), ("--post", "machine-kerf")])
def test_the_kerf_is_left_to_the_machine_by_option_or_by_the_post(words, tmp_path):
    order = tmp_path / "order.json"
    order.write_text(json.dumps(ORDER))
    kaigata("nest", order, "--out", tmp_path, "--steps", 1)

    out = tmp_path / "cut"
    done = kaigata("cut", tmp_path / "nest.json", "--out", out, "--kerf", 0.3, *words)

    assert done.returncode == 0, done.stderr
    assert "G42 G1" in (out / "sheet-1.nc").read_text()
    line = checked("gcode_check.py", tmp_path / "nest.json", order, out, "--kerf", 0.3,
                   "--comp", "machine")  # fmt: skip
    assert line.startswith("ok"), line


def test_a_sheet_the_machine_could_not_keep_the_kerf_off_gets_no_program(tmp_path):
    slot = [[0, 0], [60, 0], [60, 40], [30.4, 40], [30.4, 10], [30, 10], [30, 40], [0, 40]]
    order = tmp_path / "order.json"
    order.write_text(json.dumps({**ORDER, "parts": [{**ORDER["parts"][0], "outer": slot}]}))
    kaigata("nest", order, "--out", tmp_path, "--steps", 1)

    out = tmp_path / "cut"
    # The program of an earlier run must not stay in its place either.
    kaigata("cut", tmp_path / "nest.json", "--out", out, "--kerf", 1)
    assert (out / "sheet-1.nc").exists()
    done = kaigata("cut", tmp_path / "nest.json", "--out", out, "--kerf", 1, "--comp", "machine")

    assert done.returncode == 3
    found = json.loads((out / "cut.json").read_text())["findings"]
    assert {"program-withheld", "narrower-than-kerf"} <= {f["code"] for f in found}
    assert not list(out.glob("*.nc"))


def test_programs_of_a_nest_that_is_made_anew_go(tmp_path):
    order = tmp_path / "order.json"
    order.write_text(json.dumps(ORDER))
    kaigata("nest", order, "--out", tmp_path, "--steps", 1)
    kaigata("cut", tmp_path / "nest.json", "--out", tmp_path)
    assert {"cut.json", "sheet-1.nc", "sheet-1.path.dxf"} <= {p.name for p in tmp_path.iterdir()}
    (tmp_path / "sheet-9.nc").write_text("(mine)")

    kaigata("nest", order, "--out", tmp_path, "--steps", 1)

    left = {p.name for p in tmp_path.iterdir()}
    assert not {"cut.json", "sheet-1.nc", "sheet-1.path.dxf"} & left
    assert {"order.json", "nest.json", "sheet-1.dxf", "sheet-9.nc"} <= left


def test_parts_closer_than_the_kerf_get_no_program(tmp_path):
    order = tmp_path / "order.json"
    order.write_text(json.dumps({**ORDER, "spacing": 0.05}))
    kaigata("nest", order, "--out", tmp_path, "--steps", 1)

    out = tmp_path / "cut"
    done = kaigata("cut", tmp_path / "nest.json", "--out", out)

    said = refused(done.returncode, done.stderr, out)
    assert "mm apart, the kerf is 0.18" in said


def test_parts_whose_files_would_be_one_are_refused(tmp_path, capsys):
    order = {**ORDER, "parts": [{**ORDER["parts"][0], "id": i} for i in ("a b", "A-b")]}
    path, out = tmp_path / "order.json", tmp_path / "out"
    path.write_text(json.dumps(order))

    code = run(["packet", str(path), "--out", str(out)])

    said = refused(code, capsys.readouterr().err, out)
    assert "'a b' and 'A-b' would be written" in said


@pytest.fixture(scope="module")
def packet(tmp_path_factory):
    """The README's example, as it stands there."""
    text = (ROOT / "README.md").read_text(encoding="utf-8")
    line = re.search(r"^\./kaigata (packet demo/order\.json --out) \S+.*$", text, re.MULTILINE)
    assert line
    out = tmp_path_factory.mktemp("packet")
    # An earlier packet of other parts and more sheets, one file of it changed since, and one more.
    names = ["blanks/Gone.dxf", "nest/sheet-9.svg", "cut/sheet-9.nc", "blanks/Changed.dxf"]
    for name in [*names, "blanks/Own.dxf"]:
        (out / name).parent.mkdir(exist_ok=True)
        (out / name).write_text(name)
    rows = [{"name": n, "sha256": sha256(n.encode()).hexdigest()} for n in names]
    (out / "manifest.json").write_text(json.dumps({"files": rows}))
    (out / "blanks" / "Changed.dxf").write_text("by hand")
    return in_a_process(*line[1].split(), out, "--time", 3), out


def test_the_readmes_packet_is_complete_and_its_manifest_true(packet):
    done, out = packet
    assert done.returncode == 0, done.stderr
    rows = json.loads((out / "manifest.json").read_text())["files"]

    for row in rows:
        data = (out / row["name"]).read_bytes()
        assert (len(data), sha256(data).hexdigest()) == (row["size"], row["sha256"])
    files = {p.relative_to(out).as_posix() for p in out.rglob("*") if p.is_file()}
    kept = {"blanks/Changed.dxf", "blanks/Own.dxf"}
    assert files == {r["name"] for r in rows} | {"manifest.json", "packet.zip"} | kept
    with zipfile.ZipFile(out / "packet.zip") as zipped:
        assert set(zipped.namelist()) == {r["name"] for r in rows} | {"manifest.json"}


def test_the_packets_nest_and_programs_satisfy_the_checkers(packet):
    _, out = packet
    nest = json.loads((out / "nest" / "nest.json").read_text())
    order = out / "order.json"
    order.write_text(json.dumps(nest["order"]))
    cut = json.loads((out / "cut" / "cut.json").read_text())
    kerfs = {s["number"]: s["kerf"] for s in cut["sheets"]}
    widths = ",".join({f"{s['sheet']}={kerfs[s['number']]}" for s in nest["sheets"]})

    assert checked("nest_check.py", order, out / "nest" / "nest.json").startswith("ok")
    line = checked(
        "gcode_check.py", out / "nest" / "nest.json", order, out / "cut", "--kerf", widths
    )
    assert line.startswith("ok")
    order.unlink()


def test_a_recipe_goes_the_whole_way(tmp_path):
    demo = json.loads(DEMO.read_text())
    part = {"id": "bolt-tray", "file": str(DEMO.parent / "parts" / "bolt-tray.json"),
            "quantity": 3, "material": "galvanised"}  # fmt: skip
    path = tmp_path / "order.json"
    path.write_text(json.dumps({**demo, "parts": [part]}))

    done = kaigata("packet", path, "--out", tmp_path / "out", "--steps", 1)

    assert (done.returncode, done.stderr) == (0, "")
    nest = json.loads((tmp_path / "out" / "nest" / "nest.json").read_text())
    assert sum(len(s["placements"]) * s["copies"] for s in nest["sheets"]) == 3
    made = {
        r["name"] for r in json.loads((tmp_path / "out" / "manifest.json").read_text())["files"]
    }
    assert {"blanks/bolt-tray.blank.json", "blanks/bolt-tray.pdf", "cut/sheet-1.nc"} <= made


def test_a_part_that_fails_is_left_out_and_listed(tmp_path):
    (tmp_path / "bad.step").write_bytes(b"ISO-10303-21; nothing")
    demo = json.loads(DEMO.read_text())
    good = {**demo["parts"][4], "file": str(Path("/") / DEMO.parent / demo["parts"][4]["file"])}
    order = {**demo, "parts": [good, {"id": "bad", "file": "bad.step", "material": "steel"}]}
    path = tmp_path / "order.json"
    path.write_text(json.dumps(order))

    done = kaigata("packet", path, "--out", tmp_path / "out", "--steps", 1)

    assert done.returncode == 3
    assert "failed: bad: bad.step" in done.stdout
    assert (tmp_path / "out" / "packet.zip").exists()


def test_an_assembly_is_drawn_with_its_parts_and_one_part_is_none(tmp_path):
    done = kaigata("blank", PARTS / "stand.step", "--out", tmp_path / "out", "--assembly")
    assert done.returncode == 0
    toned = (tmp_path / "out" / "stand-assembly.pdf").read_bytes()
    assert toned.startswith(b"%PDF")
    assert b"/Subtype /Image" in toned
    kaigata("blank", PARTS / "stand.step", "--out", tmp_path / "out", "--assembly", "--lines")
    assert b"/Subtype /Image" not in (tmp_path / "out" / "stand-assembly.pdf").read_bytes()

    refused = kaigata("blank", PARTS / "tool-tray.step", "--out", tmp_path / "no", "--assembly")
    assert refused.returncode == 2
    assert "kaigata: tool-tray.step: it is no assembly: it holds one part once" in refused.stderr
    assert not (tmp_path / "no").exists()


def test_an_assembly_too_large_to_draw_does_not_keep_its_blanks(tmp_path, monkeypatch):
    monkeypatch.setattr(markup_assembly, "_MOST_TRIANGLES", 100)
    done = kaigata("blank", PARTS / "stand.step", "--out", tmp_path, "--assembly", "--json")
    assert done.returncode == 3
    answer = json.loads(done.stdout)
    assert [r["fix"] for r in answer["refused"]] == [
        "Bring in a part of the assembly, and draw that"
    ]
    assert "base-foot.pdf" in answer["files"]
    assert not list(tmp_path.glob("*assembly*"))
