"""The shop's cut chart as a table, and what cutting an order gives."""

import json

import pytest

from kaigata.shop.models import CutRow
from tests.shop.test_runs import JSON

ADDRESS = "/api/stores/tables/cut-chart"


def put(client, text):
    return client.put(ADDRESS, {"text": text, "name": "chart.csv"}, **JSON)


def test_the_cut_chart_comes_out_and_goes_in_changed(client):
    text = client.get(ADDRESS).content.decode()
    heading, first, *rest = text.splitlines()
    cells = dict(zip(heading.split(","), first.split(","), strict=True))
    cells |= {"kerf": "0.31", "lead_kind": "arc", "over_cut": "1.5"}

    answer = put(client, "\n".join([heading, ",".join(cells.values()), *rest]) + "\n")

    assert answer.status_code == 200
    row = CutRow.objects.get(process=cells["process"], thickness=float(cells["thickness"]))
    assert (row.kerf, row.lead_kind, row.over_cut) == (0.31, "arc", 1.5)
    assert CutRow.objects.count() == len(rest) + 1


@pytest.mark.parametrize(
    ("row", "text"),
    [
        ("laser,*,1.5,0,6000,0.4,3,60000", "kerf is 0, it must be above 0"),
        ("plane,*,1.5,0.2,6000,0.4,3,60000", "process is 'plane'"),
        ("laser,oak,1.5,0.2,6000,0.4,3,60000", "there is no material 'oak'"),
        ("laser,*,1.5,0.2,fast,0.4,3,60000", "feed is 'fast'"),
    ],
)
def test_a_wrong_row_of_the_cut_chart_is_told_and_changes_nothing(client, row, text):
    before = CutRow.objects.count()
    heading = "process,material,thickness,kerf,feed,pierce_seconds,lead_in,rapid"
    good = "laser,*,1.0,0.2,6000,0.4,3,60000"

    answer = put(client, f"{heading}\n{good}\n{row}\n")

    assert answer.status_code == 422
    assert text in answer.json()["detail"]
    assert "chart.csv line 3" in json.dumps(answer.json())
    assert CutRow.objects.count() == before
