"""Print every sentence of the program with where it stands, for a person to read.

What is filled in stands in braces, as in the source; docstrings and single words are left out.
"""

import ast
from pathlib import Path

SOURCE = Path(__file__).parents[1] / "src" / "blunt_ruler"
FEWEST_WORDS = 3


def filled(node: ast.JoinedStr) -> str:
    """An f-string with its fields in braces."""
    return "".join(
        str(part.value) if isinstance(part, ast.Constant) else f"{{{ast.unparse(part.value)}}}"
        for part in node.values
        if isinstance(part, ast.Constant | ast.FormattedValue)
    )


def sentences(path: Path) -> list[tuple[int, str]]:
    """(line, words) of the strings of a file that are read by people."""
    tree = ast.parse(path.read_text("utf-8"))
    skipped = {
        id(inner)
        for node in ast.walk(tree)
        if isinstance(node, ast.Expr | ast.JoinedStr)
        for inner in ast.walk(node)
        if isinstance(inner, ast.Constant) and not isinstance(node, ast.Expr)
    } | {
        id(node.value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }
    found = []
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            found.append((node.lineno, filled(node)))
        elif isinstance(node, ast.Constant) and id(node) not in skipped:
            found.append((node.lineno, node.value if isinstance(node.value, str) else ""))
    return [(line, words) for line, words in found if len(words.split()) >= FEWEST_WORDS]


def main() -> None:
    for path in sorted(SOURCE.rglob("*.py")):
        told = sentences(path)
        if told:
            print(f"\n{path.relative_to(SOURCE)}")
        for line, words in sorted(told):
            print(f"{line:>5}  {' '.join(words.split())}")


if __name__ == "__main__":
    main()
