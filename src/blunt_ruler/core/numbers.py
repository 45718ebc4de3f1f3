"""Numbers as people type them: one reader for every field, grid and note of the window.

Logs and tables have another, `exchange.log_numbers`: there the decimal mark belongs to the file.
"""

import re

from blunt_ruler.core.errors import UserFixable

_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d{1,3})?", re.ASCII)
_SPACES = str.maketrans("", "", " \u00a0\u202f\u2009")


def number(text: str) -> float:
    """A number with either decimal mark, a true or a plain minus, spaces between thousands.

    Where both marks stand, the last one is the decimal mark. ValueError where it is no number.
    """
    plain = text.strip().replace("−", "-").translate(_SPACES)
    if "," in plain and "." in plain:
        between = "," if plain.rindex(".") > plain.rindex(",") else "."
        plain = plain.replace(between, "")
    plain = plain.replace(",", ".")
    if _NUMBER.fullmatch(plain) is None:
        raise ValueError(f"“{text.strip()}” is no number")
    return float(plain)


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
