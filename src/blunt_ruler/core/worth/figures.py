"""The figures of Worth: their names, what they say, and how they are written."""

from collections.abc import Mapping
from enum import StrEnum
from typing import NamedTuple

from blunt_ruler.core.text import MINUS, MISSING, THIN, fps_text, percent_text
from blunt_ruler.core.worth.answers import Answer


class WorthFigure(StrEnum):
    """A figure of a rig; the same name in files, commands and documents."""

    COST = "cost"
    VALUE = "value"
    FRAMES = "mean_fps"
    LOW = "mean_low_fps"
    GAINED = "gained_fps"
    GAINED_LOW = "gained_low_fps"
    PER_FRAME = "cost_per_frame"
    PER_LOW = "cost_per_low_frame"
    PER_GAINED = "cost_per_gained_frame"
    PER_GAINED_LOW = "cost_per_gained_low_frame"
    MONTHLY = "monthly"
    IDLE_W = "idle_w"
    LOAD_W = "load_w"
    PER_WATT = "frames_per_watt"
    ENERGY_KWH = "energy_kwh_per_year"
    ENERGY_COST = "energy_cost_per_year"
    SUPPLY_FREE = "supply_free"
    CARD_C = "card_c"
    OVER_AMBIENT = "over_ambient_k"
    BELOW_THROTTLE = "below_throttle_k"
    SLOWED = "slowed_runs"
    NOISE = "noise_dba"
    WEIGHT = "weight_kg"
    BESIDE = "beside_kg"
    VOLUME = "volume_l"
    CABLES = "cables"
    DOCKING = "docking_min"


class Said(NamedTuple):
    """What a figure is in words, and its unit; "money" stands for the review's currency."""

    words: str
    short: str
    unit: str


MONEY = "money"
FIGURES: Mapping[WorthFigure, Said] = {
    WorthFigure.COST: Said("cost of what is still to be bought", "to buy", MONEY),
    WorthFigure.VALUE: Said("cost with what is already owned", "all parts", MONEY),
    WorthFigure.FRAMES: Said("mean frame rate over the shared cases", "frames", "fps"),
    WorthFigure.LOW: Said("mean 1 % low over the shared cases", "1 % low", "fps"),
    WorthFigure.GAINED: Said("frames gained over the base", "gained", "fps"),
    WorthFigure.GAINED_LOW: Said("frames of the 1 % low gained over the base", "low gained", "fps"),
    WorthFigure.PER_FRAME: Said("cost for each frame per second", "per frame", MONEY),
    WorthFigure.PER_LOW: Said("cost for each frame of the 1 % low", "per low frame", MONEY),
    WorthFigure.PER_GAINED: Said(
        "cost for each frame per second gained over the base", "per gained", MONEY
    ),
    WorthFigure.PER_GAINED_LOW: Said(
        "cost for each frame of the 1 % low gained over the base", "per gained low", MONEY
    ),
    WorthFigure.MONTHLY: Said("cost in a month, price and energy", "a month", MONEY),
    WorthFigure.IDLE_W: Said("power at the wall, idle", "idle", "W"),
    WorthFigure.LOAD_W: Said("power at the wall, playing", "playing", "W"),
    WorthFigure.PER_WATT: Said("frames per second for each watt", "frames for a watt", "fps/W"),
    WorthFigure.ENERGY_KWH: Said("energy in a year", "a year", "kWh"),
    WorthFigure.ENERGY_COST: Said("energy cost in a year", "energy", MONEY),
    WorthFigure.SUPPLY_FREE: Said("share of the supply left free", "supply free", "share"),
    WorthFigure.CARD_C: Said("hottest card temperature", "card", "°C"),
    WorthFigure.OVER_AMBIENT: Said("card above the air around it", "over air", "K"),
    WorthFigure.BELOW_THROTTLE: Said("card below the point where it slows", "to slowing", "K"),
    WorthFigure.SLOWED: Said("runs in which the card's clock fell", "slowed", "runs"),
    WorthFigure.NOISE: Said("noise at the listener, playing", "noise", "dB(A)"),
    WorthFigure.WEIGHT: Said("weight of all of it, supplies included", "weight", "kg"),
    WorthFigure.BESIDE: Said("weight beside the host, supplies included", "beside host", "kg"),
    WorthFigure.VOLUME: Said("room that host and dock take", "room", "l"),
    WorthFigure.CABLES: Said("cables to plug, mains and monitor included", "cables", "cables"),
    WorthFigure.DOCKING: Said("minutes that each docking takes", "docking", "min"),
}

VALUE_FIGURES = (
    WorthFigure.COST,
    WorthFigure.FRAMES,
    WorthFigure.LOW,
    WorthFigure.PER_FRAME,
    WorthFigure.PER_GAINED,
    WorthFigure.PER_GAINED_LOW,
    WorthFigure.MONTHLY,
)
RUNNING_FIGURES = (
    WorthFigure.IDLE_W,
    WorthFigure.LOAD_W,
    WorthFigure.PER_WATT,
    WorthFigure.ENERGY_COST,
    WorthFigure.SUPPLY_FREE,
    WorthFigure.OVER_AMBIENT,
    WorthFigure.BELOW_THROTTLE,
    WorthFigure.SLOWED,
    WorthFigure.NOISE,
    WorthFigure.WEIGHT,
    WorthFigure.BESIDE,
    WorthFigure.VOLUME,
    WorthFigure.CABLES,
)


def money_number(value: float) -> str:
    """Money without its currency: two decimals under 100 unless it is whole; thousands parted."""
    whole = abs(value) >= 99.995 or value == round(value)
    figure = f"{value:,.0f}" if whole else f"{value:,.2f}"
    return figure.replace(",", THIN).replace("-", MINUS)


def money_text(value: float, currency: str) -> str:
    """Money with its currency: "1 240 EUR"."""
    return f"{money_number(value)}{THIN}{currency}"


DECIMALS = {"fps/W": 3, "kg": 1, "l": 1, "dB(A)": 1}


def figure_number(answer: Answer, figure: WorthFigure) -> str:
    """A figure without its unit, for a table whose head has it; an en dash for an unknown one."""
    if answer.value is None:
        return MISSING
    match FIGURES[figure].unit:
        case "money":
            return money_number(answer.value)
        case "fps":
            return fps_text(answer.value)
        case "share":
            return percent_text(answer.value)
        case unit:
            return f"{answer.value:.{DECIMALS.get(unit, 0)}f}".replace("-", MINUS)


def figure_text(answer: Answer, figure: WorthFigure, currency: str) -> str:
    """A figure with its unit; an en dash for an unknown one."""
    number, unit = figure_number(answer, figure), FIGURES[figure].unit
    if answer.value is None or unit in UNITLESS:
        return number
    return f"{number}{THIN}{currency if unit == MONEY else unit}"


UNITLESS = ("share", "runs", "cables")


def figure_head(figure: WorthFigure, currency: str) -> str:
    """The head of a column of a figure: what it is and its unit."""
    _, short, unit = FIGURES[figure]
    if unit in UNITLESS:
        return short
    return f"{short}, {currency if unit == MONEY else unit}"
