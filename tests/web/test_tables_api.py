"""Tables through the served application and MariaDB: brought in, looked at, mended, compared, taken out."""

from __future__ import annotations

import io
import json
import urllib.parse
from typing import Any

import polars as pl
import pytest

from .client import Answer, Client

GAUGE = b"t [h];level [m];site\n0;1,2;sill\n1;1,5;sill\n2;x;weir\n3;9,9;weir\n4;1,1;sill\n5;1,3;sill\n6;1,4;sill\n"


class Tables:
    """The tables of one folio."""

    def __init__(self, client: Client, folio: dict[str, Any] | None = None) -> None:
        self.client, self.folio = client, folio or client.folio()
        self.address = f"/api/folios/{self.folio['id']}"

    def bytes(self, method: str, path: str, data: bytes, recipe: dict[str, Any] | None = None) -> Answer:
        query = f"?recipe={urllib.parse.quote(json.dumps(recipe))}" if recipe is not None else ""
        headers = {"X-CSRFToken": self.client.token, "Content-Type": "application/octet-stream"}
        return self.client.send(method, f"{self.address}/{path}{query}", data, headers)

    def put(self, name: str = "gauge.csv", data: bytes = GAUGE, recipe: dict[str, Any] | None = None) -> dict[str, Any]:
        answer = self.bytes("PUT", f"tables/{name}", data, recipe)
        assert answer.status == 200, answer.body
        return answer.json  # type: ignore[no-any-return]

    def rows(self, name: str = "gauge.csv", **asked: Any) -> dict[str, Any]:
        answer = self.client.get(f"{self.address}/tables/{name}/rows?{urllib.parse.urlencode(asked)}")
        assert answer.status == 200, answer.body
        return answer.json  # type: ignore[no-any-return]

    def mend(self, table: dict[str, Any], **changes: Any) -> Answer:
        body = {"number": table["number"], "recipe": table["recipe"] | changes}
        return self.client.change("PATCH", f"{self.address}/tables/{table['name']}", body)


@pytest.fixture
def tables(client: Client) -> Tables:
    return Tables(client)


def test_a_look_shows_how_a_file_reads_and_keeps_nothing(tables: Tables) -> None:
    found = tables.bytes("POST", "tables/preview/gauge.csv", GAUGE).json
    assert (found["recipe"]["delimiter"], found["recipe"]["decimal"]) == (";", ",")
    assert [(c["name"], c["kind"]) for c in found["columns"]] == [("t", "number"), ("level", "number"), ("site", "text")]
    assert found["columns"][1]["bad"] == [[3, "x"]]
    assert found["shown"][0] == [0.0, 1.2, "sill"]
    other = tables.bytes("POST", "tables/preview/gauge.csv", GAUGE, found["recipe"] | {"decimal": ".", "columns": []}).json
    assert other["columns"]
    assert tables.client.get(f"{tables.address}/tables").json["tables"] == []


def test_brought_in_with_its_columns_and_its_fingerprint(tables: Tables) -> None:
    import hashlib

    put = tables.put()
    assert put["sha256"] == hashlib.sha256(GAUGE).hexdigest()
    assert (put["rows"], put["number"], put["bytes"]) == (7, 1, len(GAUGE))
    t, level, site = put["columns"]
    assert (t["unit"], level["unit"], site["unit"]) == ("h", "m", None)
    assert level["bad"] == [[3, "x"]]
    assert level["summary"]["count"] == 6
    assert sum(level["summary"]["bins"]) == 6
    assert site["summary"]["distinct"] == 2


DOUBTFUL = b"x;y\n1,500;2,50(5)\n2,250;2,61(6)\n"


def test_a_doubt_is_told_by_the_run_until_it_is_decided(tables: Tables) -> None:
    script = 'table t from "either.csv"\nshow t.x\n'

    def told() -> tuple[list[Any], list[str]]:
        done = tables.client.run(script, tables.folio)[-1]["record"]
        return done["findings"][0]["values"][0]["value"], [m["text"] for m in done["messages"] if m["severity"] == "warning"]

    put = tables.put("either.csv", b"x;y\n1,500;a\n2,250;b\n")
    (doubt,) = put["recipe"]["doubts"]
    values, warned = told()
    assert values == [1.5, 2.25]
    assert len(warned) == 1
    assert "1,500 in row 1 of x is read as 1.5" in warned[0]
    right = tables.mend(put, settled=[doubt["key"]])
    assert told() == ([1.5, 2.25], [])
    other = tables.mend(right.json, **doubt["change"])
    assert other.status == 200, other.body
    assert told() == ([1500, 2250], [])


def test_uncertain_cells_reach_the_page_the_run_and_its_record(tables: Tables) -> None:
    put = tables.put("unsure.csv", DOUBTFUL)
    assert put["recipe"]["doubts"] == []
    assert tables.rows("unsure.csv")["errors"] == {"y": [0.05, 0.06]}
    done = tables.client.run('table t from "unsure.csv"\nshow t.y[1] + t.y[2]\n', tables.folio)[-1]["record"]
    (row,) = done["findings"][0]["values"]
    assert row["value"] == pytest.approx(5.11)
    assert row["standard_error"] == pytest.approx((0.05**2 + 0.06**2) ** 0.5)
    (used,) = done["tables"]
    assert used["reading"]["decimal"] == ","
    assert used["reading"]["columns"][1]["uncertain"]
    assert tables.bytes("POST", "tables/preview/unsure.csv", DOUBTFUL).json["errors"] == {"y": [0.05, 0.06]}


@pytest.mark.parametrize("wrong", [{"skip": "many"}, {"excluded": [{}]}, {"columns": 7}, {"nothing": 1}])
def test_a_recipe_of_wrong_types_is_refused_and_the_table_stays(tables: Tables, wrong: dict[str, Any]) -> None:
    put = tables.put()
    answer = tables.mend(put, **wrong)
    assert (answer.status, answer.json["code"]) == (422, "recipe")
    assert next(iter(wrong)) in answer.json["message"]
    assert tables.rows()["total"] == 7


def test_pages_of_rows_sorted_and_filtered(tables: Tables) -> None:
    tables.put()
    assert tables.rows(count=2, start=1) == {
        "total": 7, "numbers": [2, 3], "cells": [[1, 1.5, "sill"], [2, None, "weir"]], "original": [[1, 1.5, "sill"], [2, None, "weir"]],
        "errors": {},
    }  # fmt: skip
    assert tables.rows(sort="level", down="true")["numbers"] == [4, 2, 7, 6, 1, 5, 3]
    assert tables.rows(sort="level")["numbers"] == [5, 1, 6, 7, 2, 4, 3]
    assert tables.rows(where="level", low=1.25, high=2)["numbers"] == [2, 6, 7]
    assert tables.rows(where="site", text="WEI")["numbers"] == [3, 4]
    assert tables.rows(where="level", gaps="true")["numbers"] == [3]
    assert tables.rows(only="mended")["numbers"] == [3]
    assert tables.client.get(f"{tables.address}/tables/gauge.csv/rows?sort=nothing").status == 404
    assert tables.client.get(f"{tables.address}/tables/gauge.csv/rows?count=9999").status == 422


def test_mended_cells_reach_the_run_and_its_record(tables: Tables) -> None:
    put = tables.put()
    columns = [c | ({"unit": "cm", "description": "staff gauge"} if c["name"] == "level" else {}) for c in put["recipe"]["columns"]]
    answer = tables.mend(
        put, columns=columns, corrections=[{"row": 3, "column": "level", "value": 1.6}], excluded=[4],
        computed=[{"name": "above", "formula": "level - 1", "unit": "cm", "description": ""}],
    )  # fmt: skip
    assert answer.status == 200, answer.body
    mended = answer.json
    assert mended["columns"][1]["unit"] == "cm"
    assert mended["columns"][3]["computed"] == "level - 1"
    rows = tables.rows()
    assert rows["cells"][2][1] == 1.6
    assert rows["cells"][3][1] is None
    assert rows["original"][3][1] == 9.9
    assert rows["cells"][0][3] == pytest.approx(0.2)
    seen = tables.client.get(f"{tables.address}/tables/gauge.csv/summaries/level").json
    assert (seen["count"], seen["gaps"], seen["left_out"]) == (6, 0, 1)
    assert seen["mean"] == pytest.approx(8.1 / 6, rel=1e-15)
    assert tables.client.get(f"{tables.address}/tables/gauge.csv/summaries/nothing").status == 404
    done = tables.client.run('table gauge from "gauge.csv"\nshow gauge.level, gauge.above\n', tables.folio)[-1]
    found = [f["values"][0] for f in done["record"]["findings"]]
    assert found[0]["value"] == [1.2, 1.5, 1.6, None, 1.1, 1.3, 1.4]
    assert found[0]["unit"] == "cm"
    assert found[1]["value"][2] == pytest.approx(0.6)
    (told,) = done["record"]["tables"]
    assert told["mending"]["excluded"] == [4]
    assert told["mending"]["corrections"] == [{"row": 3, "column": "level", "value": 1.6}]
    assert not [m for m in done["record"]["messages"] if m["severity"] == "warning"]


@pytest.mark.parametrize(
    ("change", "phrase"),
    [
        ({"computed": [{"name": "x", "formula": "level +", "unit": None, "description": ""}]}, "'x'"),
        ({"computed": [{"name": "level", "formula": "t", "unit": None, "description": ""}]}, "two columns are called 'level'"),
        ({"computed": [{"name": 'a"b', "formula": "t", "unit": None, "description": ""}]}, "no name for a column"),
        ({"decimal": 3, "surprise": 1}, "cannot be read"),
        ({"sheet": None, "columns": []}, ""),
    ],
)
def test_recipes_that_cannot_be_used(tables: Tables, change: dict[str, Any], phrase: str) -> None:
    put = tables.put()
    answer = tables.mend(put, **change)
    if phrase:
        assert answer.status == 422
        assert phrase in answer.json["message"]
        assert tables.client.get(f"{tables.address}/tables/gauge.csv").json["recipe"] == put["recipe"]
    else:
        assert answer.json["columns"]  # found out anew


def test_a_newer_version_keeps_the_older_one_to_compare(tables: Tables) -> None:
    put = tables.put()
    tables.mend(put, excluded=[4], computed=[{"name": "above", "formula": "level - 1", "unit": None, "description": ""}])
    newer = GAUGE.replace(b"9,9", b"1,7").replace(b"x;", b"1,6;") + b"7;1,5;sill\n"
    found = tables.put(data=newer)
    assert (found["number"], found["rows"]) == (2, 8)
    assert found["recipe"]["excluded"] == []  # its rows may be others
    assert found["recipe"]["computed"][0]["name"] == "above"
    told = tables.client.get(f"{tables.address}/tables/gauge.csv/versions/1").json
    assert (told["rows_before"], told["rows_now"], told["cells_changed"]) == (7, 8, 2)
    assert told["cells"] == [[3, "level", None, 1.6], [4, "level", 9.9, 1.7]]
    assert tables.put(data=newer)["number"] == 2  # the same again is no new version
    assert tables.client.get(f"{tables.address}/tables/gauge.csv/versions/7").status == 404
    late = tables.mend(put, excluded=[1])
    assert (late.status, late.json["code"]) == (409, "table-changed")


@pytest.mark.parametrize("fmt", ["csv", "xlsx", "json", "parquet"])
def test_taken_out_and_brought_in_again(tables: Tables, fmt: str) -> None:
    tables.put()
    out = tables.client.get(f"{tables.address}/tables/gauge.csv/as/{fmt}")
    assert out.status == 200
    assert f"filename=gauge.{fmt}" in out.headers["Content-Disposition"]
    again = tables.put(f"again.{fmt}", out.body)
    assert [c["name"] for c in again["columns"]] == ["t", "level", "site"]
    assert tables.rows(f"again.{fmt}")["cells"] == tables.rows()["cells"]
    assert tables.client.get(f"{tables.address}/tables/gauge.csv/as/original").body == GAUGE
    assert tables.client.get(f"{tables.address}/tables/gauge.csv/as/exe").status == 404


@pytest.mark.parametrize("data", [b"", b"\x00" * 100, b"PK\x03\x04...", b"a,b\n1\n", b"[{]"])
def test_what_is_no_table_is_refused_and_nothing_is_kept(tables: Tables, data: bytes) -> None:
    for method, path in (("POST", "tables/preview/x.csv"), ("PUT", "tables/x.csv")):
        answer = tables.bytes(method, path, data)
        assert (answer.status, answer.json["code"]) == (422, "table")
        assert answer.json["message"]
    assert tables.client.get(f"{tables.address}/tables").json["tables"] == []


def test_names_of_files(tables: Tables) -> None:
    tables.put()
    tables.put("other.csv")
    renamed = tables.client.post(f"{tables.address}/tables/gauge.csv/name", {"name": "level 2031.csv"})
    assert renamed.json["name"] == "level 2031.csv"
    taken = tables.client.post(f"{tables.address}/tables/other.csv/name", {"name": "level 2031.csv"})
    assert (taken.status, taken.json["code"]) == (409, "name-taken")
    assert tables.client.post(f"{tables.address}/tables/other.csv/name", {"name": 'a"b'}).status == 422
    assert tables.client.change("DELETE", f"{tables.address}/tables/other.csv").status == 204


def test_a_copy_of_a_folio_has_its_tables(tables: Tables) -> None:
    tables.put()
    copy = tables.client.post(f"/api/folios/{tables.folio['id']}/duplicate").json
    other = Tables(tables.client, copy)
    assert [t["name"] for t in tables.client.get(f"{other.address}/tables").json["tables"]] == ["gauge.csv"]
    assert other.rows()["total"] == 7


def test_a_hundred_thousand_rows(tables: Tables) -> None:
    n = 100_000
    out = io.BytesIO()
    pl.DataFrame({"t": range(n), "a": [k % 97 / 7 for k in range(n)], "b": [float(k) for k in range(n)]}).write_parquet(out)
    assert tables.put("long.parquet", out.getvalue())["rows"] == n
    page = tables.rows("long.parquet", start=99_990, count=20, sort="b", down="true")
    assert page["numbers"] == list(range(10, 0, -1))
    done = tables.client.run('table long from "long.parquet"\nshow mean(long.b)\n', tables.folio)[-1]
    assert done["record"]["findings"][0]["values"][0]["value"] == (n - 1) / 2


def test_what_was_mended_is_bad_no_more(tables: Tables) -> None:
    put = tables.put()
    level = put["columns"][1]
    assert (level["bad_count"], level["bad"], put["touched"]) == (1, [[3, "x"]], 1)
    mended = tables.mend(put, corrections=[{"row": 3, "column": "level", "value": 1.6}]).json
    level = mended["columns"][1]
    assert (level["bad_count"], level["bad"], level["file_bad"]) == (0, [], [[3, "x"]])
    assert level["summary"]["gaps"] == 0
    # A row that was touched twice is one row, here and among those that are shown.
    assert mended["touched"] == 1
    assert tables.rows(only="mended")["total"] == 1
    both = tables.mend(mended, excluded=[3, 4]).json
    assert both["touched"] == tables.rows(only="mended")["total"] == 2


def test_a_bad_cell_in_a_row_that_is_left_out_counts_no_more(tables: Tables) -> None:
    put = tables.mend(tables.put(), excluded=[3]).json
    assert put["columns"][1]["bad_count"] == 0
