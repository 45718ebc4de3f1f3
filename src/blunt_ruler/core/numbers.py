"""Numbers as people type them: one reader for every field, grid and note of the window.

Logs and tables have another, `exchange.logs.numbers`: there the decimal mark belongs to the file.
"""

import re

from blunt_ruler.core.errors import UserFixable

_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d{1,3})?", re.ASCII)
_SPACES = str.maketrans("", "", " \u00a0\u202f\u2009")


def number(text: str) -> float:
    """A number with either decimal mark, a true or a plain minus, spaces between thousands.

    Where both marks stand, the last one is the decimal mark. ValueError where it is not a number.
    """
    plain = text.strip().replace("−", "-").translate(_SPACES)
    if "," in plain and "." in plain:
        between = "," if plain.rindex(".") > plain.rindex(",") else "."
        plain = plain.replace(between, "")
    plain = plain.replace(",", ".")
    if _NUMBER.fullmatch(plain) is None:
        raise ValueError(f"“{text.strip()}” is not a number")
    return float(plain)


# How much of a unit one of another is: exact by definition (inch, foot and pound: 1959 agreement).
_IN = {
    "mm": {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "inch": 25.4, "inches": 25.4, '"': 25.4},
    "m": {
        "m": 1.0,
        "mm": 0.001,
        "cm": 0.01,
        "in": 0.0254,
        '"': 0.0254,
        "ft": 0.3048,
        "feet": 0.3048,
    },
    "kg": {"kg": 1.0, "g": 0.001, "lb": 0.45359237, "lbs": 0.45359237},
    "W": {"w": 1.0, "watt": 1.0, "watts": 1.0, "kw": 1000.0},
    "l": {"l": 1.0, "litre": 1.0, "litres": 1.0, "liter": 1.0, "liters": 1.0, "ml": 0.001},
    "h": {"h": 1.0, "hour": 1.0, "hours": 1.0, "min": 1.0 / 60.0, "minutes": 1.0 / 60.0},
    "MHz": {"mhz": 1.0, "ghz": 1000.0},
    "%": {"%": 1.0, "percent": 1.0},
    "GB": {"gb": 1.0, "gib": 1.0, "mb": 1.0 / 1024.0, "tb": 1024.0},
    "dB(A)": {"db(a)": 1.0, "dba": 1.0, "db": 1.0},
    "°C": {"°c": 1.0, "c": 1.0, "degrees": 1.0, "°": 1.0},
    "fps": {"fps": 1.0, "frames/s": 1.0},
    "GB/s": {"GB/s": 1.0, "MB/s": 0.001, "Gb/s": 0.125, "Gbps": 0.125, "Gbit/s": 0.125},
}
_WITH_UNIT = re.compile(r"(.*?[\d.,])\s*([^\d\s.,][^\d]*)?", re.DOTALL)


def number_in(unit: str, text: str) -> float:
    """A number in a unit, typed in it, in another of its kind, or without one: "30 cm" is 300 mm.

    ValueError where it is not a number, or of another kind.
    """
    plain = text.strip()
    found = _WITH_UNIT.fullmatch(plain)
    said = (found[2] or "").strip() if found is not None else ""
    if found is None or not said or said == unit:
        return number(plain.removesuffix(unit) if unit else plain)
    known = _IN.get(unit, {})
    if unit == "GB/s" and said not in known and said.lower() in ("gb/s", "gbps"):
        raise ValueError(f"“{plain}” can be {found[1]} GB/s or {found[1]} Gb/s, which is an eighth")
    factor = known.get(said, known.get(said.lower()))
    if factor is None:
        raise ValueError(f"“{plain}” is not a number")
    return round(number(found[1]) * factor, 9)


def read_number(text: str, what: str, *, most: float, least: float | None = None) -> float | None:
    """A typed number within bounds, None for blank; without `least` it must be above 0.

    UserFixable says what may stand there.
    """
    if not text.strip():
        return None
    try:
        value = number(text)
    except ValueError as error:
        raise UserFixable(what, str(error), "Give a number") from None
    low_enough = value >= least if least is not None else value > 0
    if not (low_enough and value <= most):
        bound = f"at least {least:g}" if least is not None else "above 0"
        raise UserFixable(what, f"“{text}” is out of range", f"Give {bound}, at most {most:g}")
    return value
