"""Folders in place of files: what of them is looked at, what is left, and what is said of them."""

import os
import sys

import pytest

from blunt_ruler import folders
from blunt_ruler.folders import BadFolder, about_how_many, files_in, told_apart, words_of


@pytest.fixture
def bench(tmp_path):
    """Logs of two rigs in folders of their own, beside files of other kinds."""
    for name in (
        *("tower/coast 1.csv", "tower/coast 2.CSV", "cable/coast 1.csv.gz", "cable/deep/x.log"),
        *(".hidden/no.csv", "cable/.no.csv", "cable/half.csv.part", "cable/coast~"),
        *("notes.png", "cable/picture.jpg", "table.xlsx"),
    ):
        path = tmp_path / "bench" / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text("x")
    return tmp_path / "bench"


def test_a_folder_stands_for_its_logs_and_those_below_by_name(bench):
    files, left = files_in([bench])
    inside = [str(path.relative_to(bench)) for path in files]
    assert inside == [
        *("cable/coast 1.csv.gz", "cable/deep/x.log"),
        *("tower/coast 1.csv", "tower/coast 2.CSV"),
    ]
    assert left == 3
    assert files_in([bench]).left_words == (
        "3 other files in the folder were left: they do not end as logs do."
    )


def test_what_was_given_itself_is_taken_whatever_it_is_called_and_as_often(bench):
    picture, log = bench / "notes.png", bench / "tower" / "coast 1.csv"
    files, left = files_in([log, picture, log, bench / "tower", bench / "tower"])
    assert files == (log, picture, log, bench / "tower" / "coast 2.CSV")
    assert (left, files_in([picture]).left_words) == (0, "")
    assert files_in([bench / "not there.csv"]).files == (bench / "not there.csv",)


def test_a_folder_without_logs_says_what_they_end_in(tmp_path):
    (tmp_path / "a.png").write_text("x")
    with pytest.raises(BadFolder, match=r"no log in it. Logs end in .csv, .tsv, .txt, .log, .gz"):
        files_in([tmp_path])


def test_pipes_and_links_that_lead_nowhere_are_left(bench):
    os.mkfifo(bench / "pipe.csv")
    (bench / "gone.csv").symlink_to(bench / "not there")
    assert len(files_in([bench]).files) == 4
    assert files_in([bench]).left == 5


def test_a_whole_disk_is_not_read_through(bench, monkeypatch):
    monkeypatch.setattr(folders, "MOST_FILES", 4)
    with pytest.raises(BadFolder, match="over 4 files"):
        files_in([bench])


def test_a_folder_that_leads_to_itself_ends(bench):
    (bench / "cable" / "round").symlink_to(bench)
    assert len(files_in([bench]).files) == 4


@pytest.mark.skipif(os.geteuid() == 0 or sys.platform == "win32", reason="root reads everything")
def test_a_closed_folder_is_said(bench):
    (bench / "cable").chmod(0)
    try:
        with pytest.raises(BadFolder, match="cannot be read: Permission denied"):
            files_in([bench])
    finally:
        (bench / "cable").chmod(0o700)


def test_a_folder_that_goes_meanwhile_is_said(bench, monkeypatch):
    real = os.walk

    def gone(folder, onerror):
        onerror(FileNotFoundError(2, "No such file or directory", str(folder)))
        return real(folder)

    monkeypatch.setattr(os, "walk", gone)
    with pytest.raises(BadFolder, match="cannot be read: No such file or directory"):
        files_in([bench])


def test_names_are_told_apart_by_folders_where_there_are_several(bench):
    files = files_in([bench]).files
    apart = told_apart(files)
    assert apart == tuple(path.relative_to(bench) for path in files)
    assert [words_of(one) for one in apart] == [
        *("cable coast 1", "cable deep x"),
        *("tower coast 1", "tower coast 2"),
    ]
    assert [str(one) for one in told_apart(files[2:])] == ["coast 1.csv", "coast 2.CSV"]
    assert told_apart([]) == ()


def test_how_many_are_given_is_counted_without_looking_at_them(bench, monkeypatch):
    assert about_how_many([bench / "tower", bench / "notes.png", bench / "not there"]) == 4
    monkeypatch.setattr(folders, "ENOUGH", 1)
    assert about_how_many([bench / "tower", bench / "notes.png"]) == 2
