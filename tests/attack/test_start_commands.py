"""Start commands of strangers: what can be slipped in unseen, and what outlives its end."""

import json
import os
import stat
import sys
import time
from pathlib import Path

import psutil
import pytest
from PyQt6.QtWidgets import QAbstractSlider, QApplication

from blunt_ruler.ui.desk.settings import Settings
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.runs.command_panel import CommandPanel
from blunt_ruler.ui.runs.consent import Consents, StartCommand, command_of, looked_at
from blunt_ruler.ui.runs.title_process import GRACE_S, TitleProcess, family


def step(_words, _share):
    pass


@pytest.fixture
def program(tmp_path):
    path = tmp_path / "game"
    path.write_text("#!/bin/sh\nexit 0\n")
    path.chmod(0o755)
    return path


@pytest.fixture
def consents(tmp_path):
    return Consents(tmp_path / "config" / "allowed.json")


@pytest.fixture
def panel(qtbot, consents):
    app = QApplication.instance()
    theme.load_fonts()
    theme.apply_theme(app, theme.wanted_theme("light"))
    made = CommandPanel()
    made.consents = consents
    qtbot.addWidget(made)
    made.resize(600, 160)
    made.show()
    qtbot.waitExposed(made)
    yield made
    made.jobs.close()


def shown(panel, qtbot, text, logbook):
    panel.show_text(text, logbook)
    qtbot.waitUntil(lambda: panel._file is not None, timeout=60_000)
    qtbot.wait(30)
    return panel


# What is seen


@pytest.mark.parametrize("letters", [3000, 3900])
def test_a_long_command_is_allowed_only_when_its_end_was_on_screen(
    panel, qtbot, program, tmp_path, letters
):
    filler = "".join(f" --option-{n}" for n in range(1000))[:letters]
    shown(panel, qtbot, f"{program}{filler} --last", tmp_path / "a.blunt")
    bar = panel.text.verticalScrollBar()
    assert panel.text.toPlainText().endswith("--last")
    assert bar.maximum() > bar.pageStep()
    assert not panel.allowed.isEnabled()
    assert "Scroll to the end" in panel.allowed.toolTip()
    bar.setValue(bar.maximum())  # jumping there leaves out what lies between
    assert not panel.allowed.isEnabled()
    panel.allowed.click()
    assert not panel.allowed.isChecked()
    bar.setValue(0)
    while bar.value() < bar.maximum():
        assert not panel.allowed.isEnabled()
        bar.triggerAction(QAbstractSlider.SliderAction.SliderPageStepAdd)
    assert panel.allowed.isEnabled()
    panel.resize(400, 160)  # other lines, which nobody has seen
    qtbot.wait(30)
    assert not panel.allowed.isEnabled()


def test_what_is_hidden_has_been_seen_by_nobody(panel, qtbot, program, tmp_path):
    panel.hide()
    shown(panel, qtbot, f"{program} -x", tmp_path / "a.blunt")
    assert not panel.allowed.isEnabled()
    panel.show()
    qtbot.waitUntil(panel.allowed.isEnabled, timeout=60_000)


def test_a_command_is_shown_as_it_is_run_and_not_as_it_was_written(panel, qtbot, program, tmp_path):
    text = f"{program} <!-- x --> <b>fast</b> '&amp; a  b'"
    shown(panel, qtbot, text, tmp_path / "a.blunt")
    assert panel.text.toPlainText() == (f"{program} '<!--' x '-->' '<b>fast</b>' '&amp; a  b'")
    assert panel.text.toPlainText().startswith(str(program))


# What a consent is for


def test_a_consent_is_for_one_command_program_file_and_logbook(program, consents, tmp_path):
    book, command = tmp_path / "a.blunt", StartCommand((str(program), "-x"))
    file = looked_at(program, step)
    assert not consents.allows(command, file, book)
    consents.put(command, file, book, True)
    assert consents.allows(command, file, book)
    assert not consents.allows(StartCommand((str(program), "-y")), file, book)
    assert not consents.allows(command, file, tmp_path / "b.blunt")
    program.write_text("#!/bin/sh\nrm -rf /\n")
    assert not consents.allows(command, looked_at(program, step), book)
    consents.put(command, file, book, False)
    assert not consents.allows(command, file, book)


def test_a_consent_of_another_machine_is_none(program, consents, tmp_path, monkeypatch):
    from blunt_ruler.logbook import signatures

    book, command, file = (
        tmp_path / "a.blunt",
        StartCommand((str(program),)),
        looked_at(program, step),
    )
    consents.put(command, file, book, True)
    monkeypatch.setattr(signatures, "this_machine", lambda: "0" * 16)
    assert not consents.allows(command, file, book)


@pytest.mark.parametrize("mode", [0o620, 0o602, 0o666])
def test_consents_that_others_could_write_are_none(program, consents, tmp_path, mode):
    book, command, file = tmp_path / "a", StartCommand((str(program),)), looked_at(program, step)
    consents.put(command, file, book, True)
    consents._path.chmod(mode)
    assert not consents.allows(command, file, book)


@pytest.mark.parametrize(
    "body",
    [b"", b"[]", b"{}", b'{"allowed": 1}', b'{"allowed": [1, null]}', b"[" * 100_000, b"\xff"],
)
def test_a_file_of_consents_that_is_none_allows_nothing(program, consents, tmp_path, body):
    command, file = StartCommand((str(program),)), looked_at(program, step)
    consents.put(command, file, tmp_path / "a", True)
    consents._path.write_bytes(body)
    assert not consents.allows(command, file, tmp_path / "a")
    consents.put(command, file, tmp_path / "a", True)
    assert consents.allows(command, file, tmp_path / "a")


def test_a_link_or_a_pipe_in_the_place_of_consents_is_none(program, consents, tmp_path):
    command, file = StartCommand((str(program),)), looked_at(program, step)
    consents.put(command, file, tmp_path / "a", True)
    kept = consents._path.rename(tmp_path / "elsewhere")
    consents._path.symlink_to(kept)
    assert not consents.allows(command, file, tmp_path / "a")
    consents._path.unlink()
    os.mkfifo(consents._path)
    assert not consents.allows(command, file, tmp_path / "a")


def test_whatever_the_umask_consents_and_settings_are_the_users_own(tmp_path, monkeypatch, program):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "new" / "config"))
    before = os.umask(0)
    try:
        settings = Settings()
        settings.stop = "Runs"
        settings._store.sync()
        folder = tmp_path / "new" / "config" / "blunt-ruler"
        Consents(folder / "allowed.json").put(
            StartCommand((str(program),)), looked_at(program, step), tmp_path / "a", True
        )
    finally:
        os.umask(before)
    for one in (folder, folder.parent, folder.parent.parent):
        assert stat.S_IMODE(one.stat().st_mode) == 0o700, one
    files = [one for one in folder.iterdir() if one.suffix != ".lock"]
    assert {one.name for one in files} == {"settings.ini", "allowed.json"}
    for one in files:
        assert stat.S_IMODE(one.stat().st_mode) == 0o600, one
    assert "Runs" in (folder / "settings.ini").read_text()
    assert json.loads((folder / "allowed.json").read_text())["allowed"]


def test_a_program_file_that_changes_after_consent_is_looked_at_again(
    panel, qtbot, program, tmp_path
):
    shown(panel, qtbot, f"{program} -x", tmp_path / "a.blunt")
    panel.allowed.click()
    assert panel.is_as_allowed()
    program.write_text("#!/bin/sh\nexit 1\n")
    assert not panel.is_as_allowed()
    assert panel.why_not
    qtbot.waitUntil(lambda: panel._file is not None, timeout=60_000)
    assert not panel.allowed.isChecked()
    assert not panel.is_as_allowed()


# What a title leaves running

CHILDREN = """
import os, signal, subprocess, sys, time
sleep = [sys.executable, "-c", "import time; time.sleep(600)"]
deaf = [sys.executable, "-c",
    "import signal, time; signal.signal(signal.SIGTERM, signal.SIG_IGN); time.sleep(600)"]
subprocess.Popen(sleep)                                             # a child
subprocess.Popen(deaf)                                              # one that does not listen
subprocess.Popen(sleep, start_new_session=True)                     # one in a session of its own
subprocess.Popen(sleep, env={}, process_group=0) if sys.version_info >= (3, 11) else None
if os.fork() == 0:                                                  # a daemon: nobody's child
    os.setsid()
    if os.fork() == 0:
        time.sleep(600)
    os._exit(0)
print("x" * 10_000_000, flush=True)                                 # nobody reads this
open(sys.argv[1], "w").write("ready")
%s
"""


def begun(qtbot, tmp_path, then):
    script, ready = tmp_path / "game.py", tmp_path / "ready"
    script.write_text(CHILDREN % then)
    title = TitleProcess()
    title.start([sys.executable, str(script), str(ready)], "game")
    qtbot.waitUntil(ready.exists, timeout=60_000)
    return title


def test_stop_ends_a_title_and_all_that_came_of_it(qtbot, tmp_path):
    title = begun(qtbot, tmp_path, "time.sleep(600)")
    # The child that makes the daemon may end after the title says it is ready.
    qtbot.waitUntil(lambda: len(family(title._token, title._pid)) == 6, timeout=30_000)
    running = family(title._token, title._pid)
    with qtbot.waitSignal(title.gone, timeout=60_000):
        title.stop()
    title.wait()
    assert not family(title._token, title._pid)
    assert not any(one.is_running() and one.status() != "zombie" for one in running)


def test_a_launcher_that_ends_leaves_its_title_running(qtbot, tmp_path):
    title = begun(qtbot, tmp_path, "sys.exit(0)")
    said = []
    title.ended.connect(lambda code, left: said.append((code, left)))
    qtbot.waitUntil(lambda: bool(said), timeout=60_000)
    assert said == [(0, True)]
    assert title.is_running
    title.stop()
    title.wait()
    qtbot.waitUntil(lambda: not title.is_running, timeout=60_000)


def test_the_interface_goes_on_while_a_deaf_title_is_ended(qtbot, tmp_path):
    title = begun(qtbot, tmp_path, "time.sleep(600)")
    began = time.perf_counter()
    title.stop()
    QApplication.processEvents()
    assert time.perf_counter() - began < GRACE_S  # which a deaf title is given
    title.wait()
    assert not psutil.pid_exists(title._pid) or not title.is_running


def test_a_title_sees_no_settings_of_ours_and_begins_in_the_home_folder(qtbot, tmp_path):
    told = tmp_path / "told"
    code = (
        f"import os; open({str(told)!r}, 'w').write(os.getcwd() + ' ' + repr(sorted(os.environ)))"
    )
    title = TitleProcess()
    title.start([sys.executable, "-c", code], "game")
    qtbot.waitUntil(lambda: told.exists() and told.read_text() != "", timeout=60_000)
    words = told.read_text()
    assert words.startswith(f"{Path.home() if Path.home().is_dir() else '/'} ")
    assert ("PYTHONSAFEPATH" in words) == ("PYTHONSAFEPATH" in _found())
    qtbot.waitUntil(lambda: not title.is_running, timeout=60_000)


def _found():
    from blunt_ruler.processes import environment_of_others

    return environment_of_others()


def test_a_command_of_this_machine_is_found_with_its_whole_path():
    assert command_of("sh -c true").parts[0].startswith("/")
