"""Mutations of core drawn by seed: a number, a comparison, an operator or a condition changed.

Every place of core that may be changed is found in its syntax tree; a sample of them is drawn, the
modules weighed by how many places they have.
"""

import ast
import random
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

OTHER = {
    ast.Lt: "<=",
    ast.LtE: "<",
    ast.Gt: ">=",
    ast.GtE: ">",
    ast.Eq: "!=",
    ast.NotEq: "==",
    ast.In: "not in",
    ast.NotIn: "in",
    ast.Is: "is not",
    ast.IsNot: "is",
    ast.Add: "-",
    ast.Sub: "+",
    ast.Mult: "/",
    ast.Div: "*",
    ast.And: "or",
    ast.Or: "and",
}
SIGNS = {
    ast.Lt: "<",
    ast.LtE: "<=",
    ast.Gt: ">",
    ast.GtE: ">=",
    ast.Eq: "==",
    ast.NotEq: "!=",
    ast.In: "in",
    ast.NotIn: "not in",
    ast.Is: "is",
    ast.IsNot: "is not",
    ast.Add: "+",
    ast.Sub: "-",
    ast.Mult: "*",
    ast.Div: "/",
    ast.And: "and",
    ast.Or: "or",
}
# Where nothing is worked out: words, and what only the eye could tell.
LEFT_ALONE = ("drawing", "text.py", "sentences.py")


class Place(NamedTuple):
    """A stretch of a module, from one offset to another, and what is put in its place."""

    module: str
    start: int
    end: int
    new: str
    line: int


def places_of(core: Path) -> list[Place]:
    """All places of core that may be changed."""
    found = []
    for path in sorted(core.rglob("*.py")):
        name = str(path.relative_to(core))
        if not name.startswith(LEFT_ALONE) and path.name != "__init__.py":
            found += _in_module(name, path.read_text("utf-8"))
    return found


def drawn(core: Path, seed: int, count: int) -> list[Place]:
    """A sample of the places, one at most a line."""
    places = places_of(core)
    random.Random(seed).shuffle(places)
    one_a_line = {(one.module, one.line): one for one in reversed(places)}
    order = {one: number for number, one in enumerate(places)}
    return sorted(one_a_line.values(), key=order.__getitem__)[:count]


def _in_module(name: str, source: str) -> Iterator[Place]:
    lines = source.splitlines(keepends=True)
    starts = [0]
    for line in lines:
        starts.append(starts[-1] + len(line))

    def at(line: int, column: int) -> int:
        return starts[line - 1] + len(lines[line - 1].encode()[:column].decode())

    for node in _nodes(ast.parse(source)):
        match node:
            case ast.Constant(value=bool() | None | str() | bytes()):
                continue
            case ast.Constant(value=int() | float() as value):
                start = at(node.lineno, node.col_offset)
                end = at(node.end_lineno or 0, node.end_col_offset or 0)
                new = str(value + 1) if isinstance(value, int) else repr(value * 2 or 1.0)
                yield Place(name, start, end, new, node.lineno)
            case ast.Compare(left=left, ops=[op], comparators=[right]) if type(op) in OTHER:
                yield from _between(name, source, at, left, right, op, node.lineno)
            case ast.BinOp(left=left, op=op, right=right) if type(op) in OTHER:
                if not any(map(_is_words, (left, right))):
                    yield from _between(name, source, at, left, right, op, node.lineno)
            case ast.BoolOp(op=op, values=[left, right]):
                yield from _between(name, source, at, left, right, op, node.lineno)


def _nodes(node: ast.AST) -> Iterator[ast.AST]:
    """All nodes below one but those in f-strings, whose places are not told before Python 3.12."""
    for child in ast.iter_child_nodes(node):
        if not isinstance(child, ast.JoinedStr):
            yield child
            yield from _nodes(child)


def _is_words(node: ast.AST) -> bool:
    return isinstance(node, ast.JoinedStr) or (
        isinstance(node, ast.Constant) and isinstance(node.value, str | bytes)
    )


def _between(name, source, at, left, right, op, line) -> Iterator[Place]:
    """The sign between two operands, where it stands there once."""
    start = at(left.end_lineno, left.end_col_offset)
    end = at(right.lineno, right.col_offset)
    between, sign = source[start:end], SIGNS[type(op)]
    spaced = f" {sign} " if sign.isalpha() or " " in sign else sign
    if between.count(spaced) == 1 and "#" not in between:
        where = start + between.index(spaced)
        new = spaced.replace(sign, OTHER[type(op)])
        yield Place(name, where, where + len(spaced), new, line)
