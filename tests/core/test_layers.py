"""The core stays free of windows, files and databases, and every module says why it exists."""

import ast
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
