"""How lines are read aloud: spelling, money and numbers by choice, and how long each takes."""

import re

from num2words import num2words

from blunt_ruler.core.records.narration_style import MoneyStyle, NumberStyle, Spelling, Style

_AMERICAN = {
    "per cent": "percent",
    "metre": "meter",
    "litre": "liter",
    "colour": "color",
    "grey": "gray",
    "behaviour": "behavior",
    "harbour": "harbor",
}
_CURRENCIES = {
    "EUR": ("euro", "euros", "€"),
    "USD": ("dollar", "dollars", "$"),
    "GBP": ("pound", "pounds", "£"),
    "CHF": ("franc", "francs", "CHF "),
}
_MONEY = re.compile(rf"(\d[\d\u202f,]*(?:\.\d+)?)[\u202f ]({'|'.join(_CURRENCIES)})\b")
_SAID = (
    "per cent|percent|times|frames|watts|decibels|euros?|dollars?|pounds?|francs?|titles|tests|"
    "gigabytes|seconds|cases|runs|metres|meters"
)
_NUMBER = re.compile(rf"(?<![\w.,−-])(\d+(?:\.\d+)?)(?=[\u202f ](?:{_SAID})\b)")
_WORDS = re.compile(r"[^\W\d_]+(?:['’-][^\W\d_]+)*")
_DIGITS = re.compile(r"\d+(?:[.,]\d+)?")


def styled(line: str, style: Style, names: tuple[str, ...] = ()) -> str:
    """A line in a style; `names` of rigs and titles are left as they are."""
    kept = [name for name in sorted(names, key=len, reverse=True) if name in line]
    for place, name in enumerate(kept):
        line = line.replace(name, f"\ue000{place}\ue001")
    if style.spelling is Spelling.AMERICAN:
        for british, american in _AMERICAN.items():
            line = re.sub(rf"\b{british}", american, line)
    if style.money is not MoneyStyle.CODE:
        line = _MONEY.sub(lambda one: _money(one[1], one[2], style.money), line)
    if style.numbers is NumberStyle.WORDS:
        line = _NUMBER.sub(lambda one: str(num2words(_value(one[1]))), line)
    for place, name in enumerate(kept):
        line = line.replace(f"\ue000{place}\ue001", name)
    return line


def _value(digits: str) -> float | int:
    return float(digits) if "." in digits else int(digits)


def _money(amount: str, currency: str, style: MoneyStyle) -> str:
    one, many, symbol = _CURRENCIES[currency]
    if style is MoneyStyle.SYMBOL:
        return f"{symbol}{amount}"
    return f"{amount} {one if amount == '1' else many}"


def seconds_of(line: str, pace: int) -> float:
    """How long a line takes to read out, s; a figure counts as the words it is said with."""
    words = len(_WORDS.findall(line))
    for number in _DIGITS.findall(line):
        words += max(1, round(0.8 * sum(char.isdigit() for char in number) + ("." in number)))
    return words * 60.0 / pace
