"""Write the help page of troubles from what is known of them."""

from pathlib import Path

import blunt_ruler
from blunt_ruler.core.trouble.knowledge import CHANCES, Knowledge
from blunt_ruler.exchange.trouble import knowledge

PAGE = Path(blunt_ruler.__file__).parent / "help" / "trouble.md"
INTRODUCTION = """\
# Trouble

What goes wrong with cards behind a link, what could cause it, and which test tells. All of it is
common practice, no source; written from `resources/trouble.toml`. Chances in words: {chances}. A
cause's weight is multiplied by what the rig is, by how often it shows what was seen, and by how
each test was answered (Bayes); a test is worth the information it is expected to give for each of
its minutes, less where hands go inside.
"""


def page(known: Knowledge) -> str:
    """The whole page."""
    chances = ", ".join(f"{word} {value:g}" for word, value in CHANCES.items())
    out = [INTRODUCTION.format(chances=chances)]
    out += ["Cautions that go with the tests:", ""]
    out += [f"- {words}" for words in known.cautions.values()]
    for symptom, says in known.symptoms.items():
        causes = [one for one in known.causes if symptom in one.symptoms]
        causes.sort(key=lambda one: -one.prior * one.shows(symptom))
        out += ["", f"## {says[:1].upper()}{says[1:]} (`{symptom}`)", ""]
        out += [f"- {one.words}. {one.cure} (`{one.key}`)" for one in causes]
    out += ["", "## Tests", ""]
    for test in sorted(known.tests, key=lambda one: one.minutes):
        out.append(f"- {test.do} {test.asks} {test.minutes:g} min (`{test.key}`)")
    out += ["", f"When: {', '.join(f'{says} (`{key}`)' for key, says in known.times.items())}."]
    return "\n".join(out) + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(knowledge()), "utf-8")
