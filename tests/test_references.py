"""Every page and stop that a message or a help page sends people to is there."""

import ast
import re
from importlib import import_module
from pathlib import Path

import blunt_ruler

SOURCE = Path(blunt_ruler.__file__).parent
SENT = re.compile(r"\b(stop|page|under|on the) [“*]*([A-Z][\w-]*(?: [a-z]+){0,2})")
SENT_AFTER = re.compile(r"\bon the [A-Z][\w-]+, page ([A-Z][\w-]*(?: [a-z]+)*)")


def pages_and_stops():
    """Their names, as the window has them."""
    from blunt_ruler.ui.shell.stops import CONTROLLERS

    pages = set()
    for path in (SOURCE / "ui").glob("*/view.py"):
        module = import_module(f"blunt_ruler.ui.{path.parent.name}.view")
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Call) and getattr(node.func, "attr", "") == "add_page":
                name = node.args[0]
                known = isinstance(name, ast.Constant)
                pages.add(name.value if known else getattr(module, name.id))
    return pages, {one.name for one in CONTROLLERS}


def texts():
    """What people read: strings of the program without its docstrings, and the help."""
    for path in SOURCE.rglob("*.py"):
        tree = ast.parse(path.read_text("utf-8"))
        docs = {
            id(node.body[0].value)
            for node in ast.walk(tree)
            if isinstance(node, ast.FunctionDef | ast.ClassDef | ast.Module)
            and node.body
            and isinstance(node.body[0], ast.Expr)
        }
        for node in ast.walk(tree):
            is_text = isinstance(node, ast.Constant) and isinstance(node.value, str)
            if is_text and id(node) not in docs:
                yield f"{path.name}, line {node.lineno}", node.value
    for path in (*SOURCE.glob("help/*.md"), *(SOURCE.parents[1] / "docs").glob("*.md")):
        yield path.name, " ".join(path.read_text("utf-8").split())


def test_every_page_and_stop_that_is_named_is_there():
    pages, stops = pages_and_stops()
    assert {"Ladder", "Next test", "Narration"} <= pages
    assert len(stops) == 7
    wrong, seen = [], 0
    for where, text in texts():
        for match in SENT.finditer(text):
            kind, words = match.groups()
            known = {"stop": stops, "page": pages, "under": pages | stops, "on the": stops}[kind]
            seen += 1
            named = any(words == one or words.startswith(f"{one} ") for one in known)
            if not named and not (kind == "on the" and words.split()[0] in OTHER_PLACES):
                wrong.append(f"{where}: {match[0]}")
        wrong += [
            f"{where}: {match[0]}"
            for match in SENT_AFTER.finditer(text)
            if not any(match[1] == one or match[1].startswith(f"{one} ") for one in pages)
        ]
    assert seen >= 10
    assert not wrong


OTHER_PLACES = {"Marram", "Linux", "PCI"}
