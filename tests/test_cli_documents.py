"""Every JSON document against its published schema (checked by jsonschema, not by what made it)."""

import json

import pytest
from jsonschema import Draft202012Validator
from jsonschema.exceptions import ValidationError

from blunt_ruler.cli.documents import DOCUMENTS, schema_of
from blunt_ruler.files import shipped


@pytest.fixture
def printed(run, demo_book, tmp_path, monkeypatch):
    """What each command prints with --json, in its fuller forms."""
    # The files themselves, and what is printed of them, are held in test_samples_and_doctor.
    monkeypatch.setattr("blunt_ruler.demo.samples.write_samples", lambda folder, _step: (folder,))
    play = ("--out", tmp_path / "logs", "--seed", 1, "--rig", "Workbench Marram 12",
            "--case", "Tidewrack / 1080p / High", "--seconds", 5)  # fmt: skip

    def log():
        run("simulate", *play)
        return next((tmp_path / "logs").iterdir())

    def written(name, text):
        (tmp_path / name).write_text(text)
        return tmp_path / name

    def samples():
        return written("m.csv", "time_s,fps\n" + "".join(f"{n},{60 + n % 5}\n" for n in range(90)))

    def tables():
        return (
            written("t.csv", "rig,title,fps\nA,Tidewrack,60\nB,Tidewrack,no: black screen\n"),
            written("s.csv", "rig,test,part,score\nA,Loom,overall,5000\n"),
        )

    def results():
        return written("l.csv", "rig,title,average_fps\nA,Tidewrack,60\nB,Tidewrack,80\n")

    calls = {
        "check": lambda: [(demo_book,), (log(),)],
        "compare": lambda: [(demo_book, "--by", "resolution", "--playable", "60/45"),
                            ("--table", results(), "--base", "A")],
        "composite": lambda: [("--part", "graphics=4920:0.85", "--part", "cpu=8000:0.15"),
                              ("--known", "graphics=4920; cpu=8000; overall=5200")],
        "doctor": lambda: [()],
        "fit-check": lambda: [(demo_book, "--rig", "Sluice Marram 12")],
        "import": lambda: [(tmp_path / "new.blunt", log(), *tables(), "--rig", "A",
                            "--case", "Tidewrack / 1080p", "--dry-run")],
        "limits": lambda: [(demo_book, "--leave-out", "link")],
        "link": lambda: [("--hop", "4.0x4"), ("--tunnel", 40), ("--hop", "3.0 to 4.0 x4")],
        "metrics": lambda: [(log(), samples())],
        "plan": lambda: [(demo_book,), (demo_book, "--hours", 3)],
        "probe": lambda: [()],
        "read": lambda: [(shipped("demo", "tidewrack.mp4"), "--from", 4, "--to", 9, "--count",
                          "--box", "54,13,54,24:fps", "--box", "60,36,39,25:card_w")],
        "charts": lambda: [(demo_book,)],
        "script": lambda: [(demo_book, script())],
        "samples": lambda: [(tmp_path / "samples",)],
        "simulate": lambda: [play],
        "trouble": lambda: [(demo_book, "--rig", "Groyne Marram 12", "--symptom", "narrow",
                             "--tried", "monitor=no")],
        "worth": lambda: [(demo_book,)],
    }  # fmt: skip

    def script():
        path = tmp_path / "talk.srt"
        said = "The Sluice keeps 70 % of the tower's speed. The difference is 18 %. Sold 3 times."
        path.write_text(f"1\n00:00:01,000 --> 00:00:03,000\n{said}\n")
        return path

    def of(name):
        if name == "report":
            run("report", demo_book, "--out", tmp_path / "report", "--format", "json")
            yield json.loads(next((tmp_path / "report").rglob("report.json")).read_text())
        for words in calls[name]() if name in calls else ():
            code, out, err = run(name, *words, "--json")
            assert code == 0, err
            yield json.loads(out)

    return of


@pytest.mark.parametrize("name", DOCUMENTS)
def test_what_is_printed_is_what_the_schema_says(run, printed, name):
    code, out, _ = run("schema", name)
    schema = json.loads(out)
    Draft202012Validator.check_schema(schema)
    documents = [*printed(name)]
    assert code == 0 and documents
    for document in documents:
        Draft202012Validator(schema).validate(document)
        assert document, "an empty document shows nothing"
        assert isinstance(document, list) or document["format_version"] == 1


def test_a_schema_refuses_a_key_it_does_not_know_and_one_that_is_missing(run, demo_book):
    value = json.loads(run("compare", demo_book, "--json")[1])
    validator = Draft202012Validator(schema_of("compare"))
    for wrong in ({**value, "speed": 1}, {k: v for k, v in value.items() if k != "rigs"}):
        with pytest.raises(ValidationError):
            validator.validate(wrong)


def test_schemas_are_listed_and_described(run):
    code, out, _ = run("schema")
    assert code == 0 and out.split() == [*DOCUMENTS]
    code, _, err = run("schema", "loss")
    assert code == 2 and err.count("\n") == 1 and "“loss”" in err
    formats = shipped("help", "formats.md").read_text("utf-8")
    assert all(f"| `{name}` |" in formats for name in DOCUMENTS)
