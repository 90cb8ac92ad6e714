"""Cutouts of the flat alone: cut, carried along, kept through a revision."""

import io

import ezdxf
import pytest
from django.core.management import call_command

from kaigata.shop.models import Blank
from kaigata.shop.services import reading
from tests.solids import profile, write_step

SLOT = {"kind": "slot", "length": 20.0, "width": 6.0, "turn": 30.0}
STEPS = [40, (90, 2), 60]


def blank_of(client, part):
    return client.get(f"/api/parts/{part.pk}/blank").json()


@pytest.fixture
def angle(order, tmp_path):
    """An angle, and a function that sends a longer one as its next revision."""

    def file(steps):
        write_step(profile(steps, thickness=2, wide=75), tmp_path / "angle.step")
        return (tmp_path / "angle.step").read_bytes()

    line = reading.put_on_rack(order, "angle.step", file(STEPS))
    reading.read_part(line.part.pk, "angle.step")
    line.part.refresh_from_db()

    def revised(steps):
        content = file(steps)
        reading.put_revision(line.part, "angle.step", content)
        reading.read_revision(line.part.pk, reading.kept("x", content).sha256, "angle.step")

    return line.part, revised


def on_bend(blank):
    (x0, y0), (x1, y1) = blank["bends"][0]["line"]
    return [(x0 + x1) / 2, (y0 + y1) / 2]


def test_a_cutout_across_a_bend_reaches_the_dxf_and_the_figures(client, angle, change):
    part, _ = angle
    before = blank_of(client, part)
    at = on_bend(before)
    now = change(part, flat_cutouts=[{**SLOT, "at": at}])
    assert now["flat_cutouts"] == [{**SLOT, "at": pytest.approx(at)}]
    assert len(now["holes"]) == len(before["holes"]) + 1
    assert before["area"] - now["area"] == pytest.approx(14 * 6 + 3.14159265 * 9)
    assert {"flat-only", "hole-across-bend"} <= {f["code"] for f in now["findings"]}
    text = client.get(f"/api/parts/{part.pk}/files/dxf").content.decode()
    cuts = ezdxf.read(io.StringIO(text)).modelspace().query("LWPOLYLINE[layer=='CUT_INNER']")
    assert len(cuts) == len(now["holes"])
    # Taken back, all is as it was.
    assert change(part, flat_cutouts=[]) == before


@pytest.mark.parametrize(
    "laid",
    [{"turn": 90}, {"turn": 180}, {"is_turned_over": True}, {"anchor": 2},
     {"turn": 90, "is_turned_over": True, "anchor": 2}],
)  # fmt: skip
def test_a_cutout_stays_where_it_is_in_the_metal(client, angle, change, laid):
    part, _ = angle
    now = change(part, flat_cutouts=[{**SLOT, "at": [20, 25]}])
    wants = distances(now)
    laid_so = change(part, **laid)
    assert distances(laid_so) == pytest.approx(wants, abs=1e-6)
    assert laid_so["area"] == pytest.approx(now["area"])
    back = change(part, turn=0, is_turned_over=False, anchor=1)
    assert back["flat_cutouts"][0] == pytest.approx({**SLOT, "at": pytest.approx([20, 25])})


def distances(blank):
    """How far the cutout's middle and ends are from the bend and from the corners of the flat."""
    (cutout,) = blank["flat_cutouts"]
    x, y = cutout["at"]
    (ax, ay), (bx, by) = blank["bends"][0]["line"]
    long = ((bx - ax) ** 2 + (by - ay) ** 2) ** 0.5
    from_bend = abs((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / long
    w, h = blank["width"], blank["height"]
    corners = sorted(((x - cx) ** 2 + (y - cy) ** 2) ** 0.5 for cx in (0, w) for cy in (0, h))
    return [from_bend, *corners]


def test_a_revision_keeps_a_cutout_or_tells_that_it_has_no_room(client, angle, change):
    part, revised = angle
    change(part, flat_cutouts=[{"kind": "hole", "at": [20, 25], "length": 8.0}])
    kept = distances(blank_of(client, part))[0]
    revised([40, (90, 2), 75])
    now = blank_of(client, part)
    assert now["revision"] == 2
    assert distances(now)[0] == pytest.approx(kept)
    assert "flat-only" in {f["code"] for f in now["findings"]}

    revised([15, (90, 2), 12])
    now = blank_of(client, part)
    lost = [f for f in now["findings"] if f["code"] == "flat-cutout-lost"]
    assert len(lost) == 1
    assert lost[0]["level"] == "error"
    # It can be put where there is room, or taken out.
    assert change(part, flat_cutouts=[])["flat_cutouts"] == []


@pytest.mark.parametrize(
    ("asked", "status"),
    [
        ({**SLOT, "at": [1, 1]}, 422),
        ({**SLOT, "at": [20, 25], "length": 4.0}, 422),
        ({**SLOT, "at": [20, 25], "length": 0}, 400),
        ({**SLOT, "at": [1e300, 25]}, 400),
        ({**SLOT, "at": [20, 25], "kind": "star"}, 400),
    ],
)
def test_what_cannot_be_cut_is_refused_and_changes_nothing(client, angle, change, asked, status):
    part, _ = angle
    before = Blank.objects.get(part=part).digest
    told = change(part, flat_cutouts=[asked], status=status)
    assert Blank.objects.get(part=part).digest == before
    if status == 422:
        assert "Cutout 1 of the flat is not cut" in told["detail"]
        assert told["fix"]


def test_a_blank_of_an_older_version_gets_its_bend_line_interrupted(client, angle, change):
    part, _ = angle
    at = on_bend(blank_of(client, part))
    now = change(part, flat_cutouts=[{**SLOT, "at": at}])
    (bend,) = now["bends"]
    assert len(bend["lines"]) == 2
    kept = Blank.objects.get(part=part)
    del kept.document["flat_only"]
    kept.document["bends"][0]["lines"] = [bend["line"]]
    kept.save()

    call_command("refresh_blanks")

    assert blank_of(client, part)["bends"][0]["lines"] == bend["lines"]
    assert Blank.objects.get(part=part).document["flat_only"] == [pytest.approx(at)]
