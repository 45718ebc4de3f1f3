"""Which tests run a line of core, as `make coverage` noted it in build/coverage."""

import ast
import re
from collections import defaultdict
from pathlib import Path

from coverage import CoverageData

Lines = dict[int, set[str]]


class Covering:
    """The tests that run each line of core, the most particular first."""

    def __init__(self, notes: Path, core: Path) -> None:
        if not notes.exists():
            raise SystemExit(f"{notes} is not there: run make coverage first")
        data = CoverageData(basename=str(notes))
        data.read()
        self._core = core
        self._lines: dict[str, Lines] = {}
        self._sources = {str(one.relative_to(core)): one for one in core.rglob("*.py")}
        self._reach: dict[str, int] = defaultdict(int)
        for file in data.measured_files():
            name = file.partition("/blunt_ruler/core/")[2]
            if name not in self._sources:
                continue
            lines = {
                line: {one.partition("|")[0] for one in contexts if one}
                for line, contexts in data.contexts_by_lineno(file).items()
            }
            self._lines[name] = lines
            for tests in lines.values():
                for test in tests:
                    self._reach[test] += 1

    def of(self, module: str, line: int) -> list[str]:
        """The tests that run the statement a line belongs to; where it runs only as its module is
        imported, those that run a line which names what it makes, and at last all of the module.
        """
        tree = ast.parse(self._sources[module].read_text("utf-8"))
        statement, inside = _statement(tree, line)
        found = self._of_lines(module, _own_lines(statement))
        if not inside:
            for name in _made(statement):
                found |= self._naming(name)
        if not found:
            found = set().union(*self._lines.get(module, {0: set()}).values())
        return sorted(found, key=lambda test: (self._reach[test], test))

    def _of_lines(self, module: str, lines: range) -> set[str]:
        noted = self._lines.get(module, {})
        return set().union(*(noted.get(line, ()) for line in lines))

    def _naming(self, name: str) -> set[str]:
        word = re.compile(rf"\b{re.escape(name)}\b")
        found: set[str] = set()
        for module, path in self._sources.items():
            for number, text in enumerate(path.read_text("utf-8").splitlines(), 1):
                if word.search(text):
                    found |= self._lines.get(module, {}).get(number, set())
        return found


def _statement(tree: ast.AST, line: int) -> tuple[ast.stmt, bool]:
    """The innermost statement on a line, and whether it stands inside a function."""
    best, inside = None, False
    for node in ast.walk(tree):  # outer ones come first
        if not isinstance(node, ast.stmt):
            continue
        heads = [node.lineno, *(one.lineno for one in getattr(node, "decorator_list", ()))]
        if min(heads) <= line <= (node.end_lineno or 0):
            inside = inside or isinstance(best, ast.FunctionDef)
            best = node
    assert best is not None, f"no statement on line {line}"
    return best, inside


def _own_lines(statement: ast.stmt) -> range:
    """Its lines; of one that holds others, those of its head; of a function, all."""
    end = statement.end_lineno or statement.lineno
    body = getattr(statement, "body", None)
    if body and not isinstance(statement, ast.FunctionDef):
        end = max(body[0].lineno - 1, statement.lineno)
    return range(statement.lineno, end + 1)


def _made(statement: ast.stmt) -> list[str]:
    """The names that a statement gives something to."""
    targets = getattr(statement, "targets", [getattr(statement, "target", None)])
    names = [node for target in targets if target for node in ast.walk(target)]
    return [one.id for one in names if isinstance(one, ast.Name)]
