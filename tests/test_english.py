"""House English: phrases that no text on screen, on paper or in a terminal uses.

A rule and not a reader: `make words` prints the sentences for a person.
"""

import ast
import re
from pathlib import Path

import pytest

SOURCE = Path(__file__).parents[1] / "src" / "blunt_ruler"
INSTEAD = {
    r"\bis no(?:ne)? number\b": "is not a number",
    r"” is none\b": "say what it is not",
    r"\bstands? on (?:one|another)\b": "holds, runs at",
    r"\bcannot be told\b|\bis not told(?! apart)": "is not known; nothing shows",
    r"\bsaid of (?:it|all|this)\b": "about",
    r"\banew\b": "again",
    r"\bnought\b": "zero",
    r"\bof which day\b": "price date",
    r"\btake it (?:away|off the list)\b": "delete, remove",
    r"\bby the [\w{}._-]+ school\b|\bschools? of\b": "definition",
    r"\bholds? every line\b|\bno line is drawn\b": "meets every requirement",
    r"\bjust held\b|\bnothing that shows\b|\bleans on\b": "plain words",
    r"\bwritten down\b": "noted",
    r"\bthat is folded\b|\btitles folded\b": "collapse, expand",
    r"\bno difference\b": "level with, or not told apart",
    r"\bfigures that cannot be\b": "impossible figures",
    r"\bmenu or loading left in\b": "menu or loading screen included",
    r"\bset apart\b": "left out",
    r"\bsomething beside the parts\b": "another item",
    r"\bwhich the base is not\b": "; the base is not",
}


def strings_of(path):
    """(line, text) of every string that is no docstring."""
    tree = ast.parse(path.read_text("utf-8"))
    docs = {
        id(node.value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }
    return [
        (node.lineno, node.value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in docs
    ]


ANY = re.compile("|".join(INSTEAD), re.IGNORECASE)


def banned_in(text):
    if not ANY.search(text):
        return []
    return [
        f"{found[0]!r}: {better}"
        for phrase, better in INSTEAD.items()
        if (found := re.search(phrase, text, re.IGNORECASE))
    ]


def test_no_text_of_the_program_uses_a_banned_phrase():
    found = [
        f"{path.relative_to(SOURCE)}:{line}: {said}"
        for path in SOURCE.rglob("*.py")
        for line, text in strings_of(path)
        for said in banned_in(text)
    ]
    assert not found, "\n".join(found)


@pytest.mark.parametrize("path", sorted((SOURCE / "help").glob("*.md")), ids=lambda one: one.stem)
def test_no_help_page_uses_a_banned_phrase(path):
    found = [
        f"{number}: {said}"
        for number, line in enumerate(path.read_text("utf-8").splitlines(), 1)
        for said in banned_in(line)
    ]
    assert not found, "\n".join(found)


def test_a_banned_phrase_is_found():
    assert banned_in("“abc” is no number") and banned_in("Take it away")
    assert not banned_in("“abc” is not a number")
