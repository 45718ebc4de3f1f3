"""The core stays free of windows, files and databases, and every module says why it exists."""

import ast
import importlib
import importlib.util
import inspect
import os
import shutil
import subprocess
import sys
from graphlib import CycleError, TopologicalSorter
from pathlib import Path

import pytest

import blunt_ruler

SOURCES = Path(blunt_ruler.__file__).parent
FORBIDDEN = ("PyQt6", "pyqtgraph", "polars", "sqlite3", "typer", "blunt_ruler.ui")


def modules_below(package: Path) -> list[str]:
    """Every module of a package of ours, those of its subpackages too, by dotted name."""
    source = package.parents[len(package.relative_to(SOURCES.parent).parts) - 1]
    paths = [path.relative_to(source).with_suffix("") for path in sorted(package.rglob("*.py"))]
    return [".".join(path.parts).removesuffix(".__init__") for path in paths]


def imported_by(modules: list[str], root: Path = SOURCES.parent) -> set[str]:
    code = f"import sys, {', '.join(modules)}; print('\\n'.join(sys.modules))"
    done = subprocess.run(
        [sys.executable, "-c", code],
        check=True,
        capture_output=True,
        text=True,
        env={**os.environ, "PYTHONPATH": str(root)},
    )
    return set(done.stdout.split())


def forbidden_in_core(root: Path = SOURCES.parent) -> list[str]:
    modules = modules_below(SOURCES / "core")
    assert len(modules) > 60
    loaded = imported_by(modules, root)
    return [name for name in FORBIDDEN if name in loaded]


def test_importing_the_whole_core_loads_no_window_file_format_or_database():
    assert forbidden_in_core() == []


@pytest.mark.parametrize("module", ["records/roles.py", "worth/money.py", "types.py"])
def test_an_import_planted_anywhere_in_core_is_found(tmp_path, module):
    shutil.copytree(SOURCES, tmp_path / SOURCES.name, ignore=shutil.ignore_patterns("*.blunt"))
    planted = tmp_path / SOURCES.name / "core" / module
    planted.write_text(planted.read_text("utf-8") + "\nimport sqlite3\n", "utf-8")
    assert forbidden_in_core(tmp_path) == ["sqlite3"]


def test_each_package_of_core_names_its_public_face():
    packages = [path for path in (SOURCES / "core").iterdir() if (path / "__init__.py").exists()]
    assert len(packages) == 17
    for package in packages:
        face = importlib.import_module(f"blunt_ruler.core.{package.name}").__all__
        assert face == sorted(path.stem for path in package.glob("[a-z]*.py")), package.name
    direct = list((SOURCES / "core").glob("[a-z]*.py"))
    assert len(direct) + len(packages) <= 24


def imports_of(path: Path, known: set[str]) -> set[str]:
    """Modules of ours that a file imports anywhere: in functions and for types alone too."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.ImportFrom) and node.module:
            for name in (node.module, *(f"{node.module}.{one.name}" for one in node.names)):
                found.add(name)
        elif isinstance(node, ast.Import):
            found.update(one.name for one in node.names)
    # A package's own face is no module that could close a circle with what is in it.
    return {name for name in found if name in known and name != "blunt_ruler"}


def test_no_import_runs_in_a_circle_not_even_for_types():
    modules = dict(zip(modules_below(SOURCES), sorted(SOURCES.rglob("*.py")), strict=True))
    arrows = {name: imports_of(path, set(modules)) for name, path in modules.items()}
    graph = {
        name: {one for one in to if not name.startswith(f"{one}.") and one != name}
        for name, to in arrows.items()
    }
    TopologicalSorter(graph).prepare()  # a circle is named in the error


def test_a_circle_is_found():
    with pytest.raises(CycleError):
        TopologicalSorter({"a": {"b"}, "b": {"a"}}).prepare()


def test_every_module_says_why_it_exists():
    for path in SOURCES.rglob("*.py"):
        docstring = ast.get_docstring(ast.parse(path.read_text("utf-8")))
        assert docstring, path
        assert len(docstring) > 20, path


def test_public_core_functions_say_what_they_do_and_are_typed():
    for module in map(importlib.import_module, modules_below(SOURCES / "core")):
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
    for path in [
        *SOURCES.rglob("*.py"),
        *root.glob("*.md"),
        *root.glob("docs/*.md"),
        *SOURCES.rglob("*.md"),
    ]:
        text = path.read_text("utf-8")
        assert not [place for place in places if place in text], path


START = """
import sys
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.shell.app import make_app
from blunt_ruler.ui.desk.settings import Settings
from blunt_ruler.ui.shell.window import MainWindow
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


def test_every_mutation_still_has_its_place():
    """What `make mutations` breaks must be there, or it breaks nothing and says nothing."""
    root = Path(__file__).parents[2]
    spec = importlib.util.spec_from_file_location("mutate", root / "tools" / "mutate.py")
    made = importlib.util.module_from_spec(spec)
    sys.modules["mutate"] = made  # dataclasses look their module up
    spec.loader.exec_module(made)
    gone = [
        f"{one.module}: {one.old}"
        for one in made.MUTATIONS
        if one.old not in (root / "src/blunt_ruler/core" / one.module).read_text("utf-8")
    ]
    assert gone == []
