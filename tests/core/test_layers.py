"""The core stays free of windows, files and databases, and every module says why it exists."""

import ast
import os
import subprocess
import sys
from pathlib import Path

import blunt_ruler

SOURCES = Path(blunt_ruler.__file__).parent
FORBIDDEN = ("PyQt6", "pyqtgraph", "polars", "sqlite3", "typer", "blunt_ruler.ui")


def imported_by(modules: list[str]) -> set[str]:
    code = f"import sys, {', '.join(modules)}; print('\\n'.join(sys.modules))"
    done = subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True)
    return set(done.stdout.split())


def test_importing_the_whole_core_loads_no_window_file_format_or_database():
    modules = [f"blunt_ruler.core.{path.stem}" for path in (SOURCES / "core").glob("[a-z]*.py")]
    assert len(modules) > 8
    loaded = imported_by(modules)
    assert not [name for name in FORBIDDEN if name in loaded]


def test_the_check_above_can_fail():
    assert "sqlite3" in imported_by(["blunt_ruler.logbook.store"])


def test_every_module_says_why_it_exists():
    for path in SOURCES.rglob("*.py"):
        docstring = ast.get_docstring(ast.parse(path.read_text("utf-8")))
        assert docstring, path
        assert len(docstring) > 20, path


def test_public_core_functions_say_what_they_do_and_are_typed():
    import importlib
    import inspect

    for path in sorted((SOURCES / "core").glob("[a-z]*.py")):
        module = importlib.import_module(f"blunt_ruler.core.{path.stem}")
        for name, value in vars(module).items():
            if name.startswith("_") or getattr(value, "__module__", "") != module.__name__:
                continue
            if inspect.isfunction(value):
                assert inspect.getdoc(value), f"{module.__name__}.{name}"
                signature = inspect.signature(value)
                assert signature.return_annotation is not inspect.Signature.empty, name
            elif inspect.isclass(value):
                assert value.__doc__, f"{module.__name__}.{name}"


def test_no_file_names_a_path_of_one_machine():
    root = SOURCES.parent.parent
    places = ["/" + name + "/" for name in ("tmp", "root", "home")]
    for path in [*SOURCES.rglob("*.py"), *root.glob("*.md"), *root.glob("docs/*.md")]:
        text = path.read_text("utf-8")
        assert not [place for place in places if place in text], path


START = """
import sys
from blunt_ruler.ui import theme
from blunt_ruler.ui.app import make_app
from blunt_ruler.ui.settings import Settings
from blunt_ruler.ui.window import MainWindow
app = make_app([])
theme.apply_theme(app, theme.PAPER)
window = MainWindow(Settings())
window.show()
app.processEvents()
late = ("pydantic", "scipy", "polars", "matplotlib", "pyqtgraph", "jinja2", "reportlab", "sqlite3")
print(*sorted(name for name in late if name in sys.modules))
window.close()
"""


def test_the_empty_window_is_up_before_anything_heavy_is_imported(tmp_path):
    done = subprocess.run(
        [sys.executable, "-c", START],
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_CONFIG_HOME": str(tmp_path)},
        capture_output=True,
        text=True,
        check=True,
    )
    assert done.stdout.split() == [], "these come with the first logbook"
