"""A published review in one zip: what is in it, how others read it, and what harms it."""

import csv
import hashlib
import io
import json
import re
import zipfile
from pathlib import Path

import pytest

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.runs.bring_in import bring_in
from blunt_ruler.exchange.documents.data_package import (
    BadPackage,
    is_package,
    take_logbook_out,
    write_package,
)
from blunt_ruler.logbook import Logbook
from blunt_ruler.logbook.bundle import write_bundle

PAGE = Path(__file__).parents[2] / "docs" / "open-data.md"


@pytest.fixture(scope="module")
def package(tmp_path_factory, demo_analysis):
    from blunt_ruler.files import shipped

    folder = tmp_path_factory.mktemp("package")
    book, _ = write_bundle(
        shipped("demo", "demo.blunt"), demo_analysis.review.id, folder / "bundle.blunt"
    )
    return write_package(folder / "review.zip", demo_analysis, (), book)


def described(package):
    with zipfile.ZipFile(package) as whole:
        return json.loads(whole.read("datapackage.json"))


def test_every_file_is_described_with_its_size_and_hash(package):
    resources = {one["path"]: one for one in described(package)["resources"]}
    with zipfile.ZipFile(package) as whole:
        assert set(whole.namelist()) == {*resources, "datapackage.json"}
        for name, one in resources.items():
            body = whole.read(name)
            assert one["bytes"] == len(body)
            assert one["hash"] == f"sha256:{hashlib.sha256(body).hexdigest()}"


def test_tables_have_the_columns_and_types_that_are_described(package, demo_analysis):
    with zipfile.ZipFile(package) as whole:
        for one in described(package)["resources"]:
            if "schema" not in one:
                continue
            rows = list(csv.DictReader(io.StringIO(whole.read(one["path"]).decode())))
            fields = {field["name"]: field["type"] for field in one["schema"]["fields"]}
            assert rows and list(rows[0]) == list(fields)
            for row in rows:
                for name, kind in fields.items():
                    if row[name]:
                        {"number": float, "integer": int, "string": str}[kind](row[name])
        runs = list(csv.DictReader(io.StringIO(whole.read("runs.csv").decode())))
    review = demo_analysis.review
    seats = {seat.rig_id for seat in review.seats}
    assert {run["run_id"] for run in runs} == {
        run.id
        for run in demo_analysis.contents.runs.values()
        if run.case_id in review.case_ids and run.rig_id in seats
    }


def test_the_same_review_gives_the_same_bytes(package, demo_analysis, tmp_path):
    book = tmp_path / "bundle.blunt"
    with zipfile.ZipFile(package) as whole:
        book.write_bytes(whole.read("bundle.blunt"))
    again = write_package(tmp_path / "again.zip", demo_analysis, (), book)
    assert again.read_bytes() == package.read_bytes()


def test_the_lines_of_the_page_read_it(package, monkeypatch, capsys):
    (lines,) = re.findall(r"```python\n(.*?)```", PAGE.read_text("utf-8"), re.DOTALL)
    assert lines.count("\n") <= 10
    monkeypatch.chdir(package.parent)
    exec(compile(lines, "page", "exec"), {})
    assert "Sluice Marram 12" in capsys.readouterr().out


def test_its_logbook_comes_out_and_its_rigs_come_in_as_references(package, tmp_path):
    book = take_logbook_out(package, tmp_path / "taken.blunt")
    with Logbook.reading(book) as opened:
        other = opened.contents()
    with Logbook.create(tmp_path / "mine.blunt") as mine:
        contents = mine.contents()
    from blunt_ruler.core.records.review_edits import first_review

    review = first_review(iter("abcdef").__next__)
    ids = (f"id{number}" for number in range(10_000))
    edit = bring_in(contents, review, other, "review", lambda: next(ids), as_references=True).edit
    after = next(one for one in edit.put if one.id == review.id)
    rigs = [one for one in edit.put if type(one).__name__ == "Rig"]
    assert set(after.references) == {rig.id for rig in rigs} and len(rigs) == 5
    assert {rig.origin for rig in rigs} == {"review"}


def rewritten(package, target, **bodies):
    with zipfile.ZipFile(package) as old, zipfile.ZipFile(target, "w") as new:
        for name in old.namelist():
            stem = name.partition(".")[0]
            new.writestr(name, bodies.get(stem, old.read(name)))
    return target


@pytest.mark.parametrize(
    ("bodies", "says"),
    [
        ({"bundle": b"SQLite format 3\0 of somebody else"}, "not the one that its"),
        ({"datapackage": b"{}"}, "gives no hash"),
        ({"datapackage": b'{"resources": [1, null, {"path": "bundle.blunt"}]}'}, "gives no hash"),
        ({"datapackage": b"[" * 100_000}, "gives no hash"),
        ({"datapackage": b" " * 2_000_000}, "too large"),
    ],
    ids=["another logbook", "no resources", "odd resources", "deep", "large"],
)
def test_what_does_not_agree_is_refused_and_leaves_nothing(package, tmp_path, bodies, says):
    bad = rewritten(package, tmp_path / "bad.zip", **bodies)
    target = tmp_path / "out" / "x.blunt"
    with pytest.raises(BadPackage, match=says):
        take_logbook_out(bad, target)
    assert not target.exists()


@pytest.mark.parametrize("cut", [0.0, 0.3, 0.9, 0.999])
def test_a_cut_zip_is_no_package_or_is_refused(package, tmp_path, cut):
    bad = tmp_path / "cut.zip"
    body = package.read_bytes()
    bad.write_bytes(body[: int(len(body) * cut)])
    assert not is_package(bad)
    with pytest.raises(UserFixable):
        take_logbook_out(bad, tmp_path / "x.blunt")


def test_flipped_bytes_never_come_out_as_a_logbook(package, tmp_path):
    import random

    body, rng = bytearray(package.read_bytes()), random.Random(4)
    true = take_logbook_out(package, tmp_path / "true.blunt").read_bytes()
    for number in range(25):
        flipped = bytearray(body)
        for _ in range(rng.randrange(1, 40)):
            flipped[rng.randrange(len(flipped))] ^= 1 << rng.randrange(8)
        bad, target = tmp_path / f"{number}.zip", tmp_path / f"{number}.blunt"
        bad.write_bytes(flipped)
        try:
            taken = take_logbook_out(bad, target)
        except UserFixable:
            assert not target.exists()
        else:
            assert taken.read_bytes() == true
