"""The command that says what took the frames, and what other parts would give."""

import math
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import numpy as np
import typer

from blunt_ruler.cli.common import (
    BadOption,
    JsonFlag,
    ReviewName,
    app,
    print_json,
    read_logbook,
    rig_id,
)
from blunt_ruler.core.errors import UnknownName
from blunt_ruler.core.limits.cells import Cell, Measured
from blunt_ruler.core.limits.fit import Fit, fit_limits
from blunt_ruler.core.limits.left_out import LeaveOut, leave_out
from blunt_ruler.core.limits.misfit import Withheld
from blunt_ruler.core.limits.split import split_losses
from blunt_ruler.core.limits.whatif import (
    card_speeds,
    ceilings,
    narrowest_link,
    outside_measured,
)
from blunt_ruler.core.measure.held_rates import held_rates
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.text import count_text, fps_text, list_text, percent_text

if TYPE_CHECKING:
    from blunt_ruler.cli.documents import (
        CeilingPoint,
        FitSummary,
        LeftOutInTurn,
        LimitCell,
        Limits,
        LossSplit,
        Prediction,
    )

Names = Callable[[str], str]


@app.command()
def limits(
    logbook: Annotated[Path | None, typer.Argument(help="A logbook.")] = None,
    review: ReviewName = None,
    table: Annotated[Path | None, typer.Option(help="A table of results with parts.")] = None,
    reference: Annotated[
        str | None, typer.Option(help="Rig that losses are split against.")
    ] = None,
    leave: Annotated[
        LeaveOut | None, typer.Option("--leave-out", help="Leave each out in turn and predict it.")
    ] = None,
    predict: Annotated[
        Path | None, typer.Option(help="A table of cells without rates to predict.")
    ] = None,
    alone: Annotated[
        bool, typer.Option("--alone", help="Learn nothing from the logbook's other reviews.")
    ] = False,
    as_json: JsonFlag = False,
) -> None:
    """What took the frames, where the loss went, and where a faster card stops paying."""
    if (logbook is None) == (table is None):
        raise BadOption(
            "LOGBOOK or --table", "exactly one of them is needed", "Give a logbook, or --table"
        )
    if table is not None:
        from blunt_ruler.exchange.tables.limits import read_limit_table

        measured, capped = without_held(read_limit_table(table, reference))
        fit = fit_limits(measured)
        withheld: Withheld = {}
        other = reference or measured.cells[-1].rig
        names: Names = str
    else:
        assert logbook is not None
        (fit, withheld), other, names = _of_logbook(logbook, review, reference, alone)
        measured, capped = fit.measured, []
    value: Limits = {
        "fit": _fit_value(fit, names),
        "capped": [
            {"rig": cell.rig, "case": cell.case, "average_fps": cell.average_fps, "why": why}
            for cell, why in capped
        ],
        "withheld": [
            {"rig": names(one.rig), "case": names(one.case), "kind": str(one.kind), "why": one.why}
            for one in withheld.values()
        ],
        "cells": _cells_value(fit, names),
        "loss": _loss_value(fit, other, names),
        "ceiling": _ceiling_value(fit, names),
        "predictions": _predictions(fit, predict),
        "left_out": _left_out(measured, leave),
    }
    if as_json:
        print_json(value)
        return
    _print(value, names(other))


def without_held(measured: Measured) -> tuple[Measured, list[tuple[Cell, str]]]:
    """Cells whose rate looks held by a cap say nothing of card, CPU or link: the rest, and they."""
    held: dict[tuple[str, str], str] = {}
    for rig in dict.fromkeys(cell.rig for cell in measured.cells):
        rates = {cell.case: (cell.average_fps,) for cell in measured.cells if cell.rig == rig}
        held |= {(rig, case): one.words for case, one in held_rates(rates).items()}
    taken = [(cell.rig, cell.case) in held for cell in measured.cells]
    out = [cell for cell, on in zip(measured.cells, taken, strict=True) if on]
    rest = measured.without([not on for on in taken])
    return rest, [(cell, held[cell.rig, cell.case]) for cell in out]


def _of_logbook(
    logbook: Path, review_name: str | None, reference: str | None, alone: bool
) -> tuple[tuple[Fit, Withheld], str, Names]:
    from blunt_ruler.core.analysis.analyse import settle

    contents, review = read_logbook(logbook, review_name)
    if reference is not None:
        review = review.with_role(rig_id(contents, review, reference), Role.REFERENCE)
    if alone:
        review = review.model_copy(update={"remembers": False})
    other = review.rig_in(Role.REFERENCE)
    if other is None:
        raise UnknownName("--reference", "the review has no reference rig", "Name one")

    def names(key: str) -> str:
        for records in (contents.rigs, contents.hosts, contents.cards):
            if key in records:
                return str(records[key].name)
        return contents.case_label(key) if key in contents.cases else key

    limits = settle(contents, review).limits
    return (limits.fitted(), dict(limits.withheld)), other, names


def _fit_value(fit: Fit, names: Names) -> "FitSummary":
    off = np.abs(fit.residuals)
    return {
        "runs": len(fit.measured.cells),
        "remembered": {"cells": len(fit.measured.beside), "reviews": fit.measured.reviews},
        "unknowns": fit.layout.size,
        "residual_median": float(np.median(off)),
        "residual_p90": float(np.quantile(off, 0.9)),
        "exponent": fit.exponent,
        "rests_on_prior": list(fit.rests_on_prior),
        "faulty": [
            {"rig": names(fit.measured.cells[i].rig), "case": names(fit.measured.cells[i].case)}
            for i in fit.faulty
        ],
    }


def _cells_value(fit: Fit, names: Names) -> "list[LimitCell]":
    shares = fit.times.limits
    fitted = np.exp(fit.measured.log_rates() - fit.residuals)
    return [
        {
            "rig": names(cell.rig),
            "case": names(cell.case),
            "average_fps": cell.average_fps,
            "fitted_fps": float(fitted[index]),
            "share": {
                "card": float(shares[0, index]),
                "cpu": float(shares[1, index]),
                "link": float(shares[2, index]),
            },
            "limit": fit.limit_of(index),
        }
        for index, cell in enumerate(fit.measured.cells)
    ]


def _loss_value(fit: Fit, reference: str, names: Names) -> "list[LossSplit]":
    return [
        {
            "rig": names(one.rig),
            "case": names(one.case),
            "lost_fps": one.lost_fps,
            "link": one.parts["link"].fps,
            "host": one.parts["host"].fps,
            "screen": one.parts["screen"].fps,
            "card": one.parts["card"].fps,
            "unexplained": one.unexplained_fps,
            "bounds_80": {name: [part.low_fps, part.high_fps] for name, part in one.parts.items()},
        }
        for one in split_losses(fit, reference)
    ]


def _ceiling_value(fit: Fit, names: Names) -> "list[CeilingPoint]":
    sizes = sorted({cell.megapixels for cell in fit.measured.cells})
    speeds = card_speeds(fit)
    return [
        {
            "host": names(one.host),
            "link": one.link,
            "megapixels": one.megapixels,
            "card_speed": one.card_speed,
            "card_speed_low_80": one.low_80,
            "card_speed_high_80": None if math.isinf(one.high_80) else one.high_80,
            "yardstick": names(fit.measured.card),
            "cards": {names(card): speed for card, speed in speeds.items()},
            "wasted": [names(card) for card in one.wasted],
            "open": [names(card) for card in one.open],
            "narrowest_gb_per_s": {
                names(card): narrowest_link(fit, one.host, card, one.megapixels)
                for card in one.cards
            },
        }
        for one in ceilings(fit, sizes)
    ]


def _predictions(fit: Fit, path: Path | None) -> "list[Prediction]":
    if path is None:
        return []
    from blunt_ruler.exchange.tables.limits import read_cells_to_predict

    cells, links = read_cells_to_predict(path)
    for cell in cells:
        for kind, own, known in (
            ("family", cell.family, fit.layout.families),
            ("host", cell.host, (*fit.layout.hosts, fit.measured.host)),
            ("card", cell.card, (*fit.layout.cards, fit.measured.card)),
        ):
            if own not in known:
                raise UnknownName(
                    path.name, f"the {kind} “{own}” was never measured", "Take one run of it first"
                )
    unseen = {name: link for name, link in links.items() if name not in fit.measured.links}
    rate, low, high = fit.predict(fit.places_for(cells, unseen))
    roads = {**fit.measured.links, **unseen}
    return [
        {
            "rig": cell.rig,
            "case": cell.case,
            "link": cell.link,
            "average_fps": float(rate[index]),
            "low_80": float(low[index]),
            "high_80": float(high[index]),
            "outside": outside_measured(fit, cell.megapixels, roads[cell.link].gb_per_s),
        }
        for index, cell in enumerate(cells)
    ]


def _left_out(measured: Measured, kind: LeaveOut | None) -> "LeftOutInTurn | None":
    if kind is None:
        return None
    found = leave_out(measured, kind)
    if found is None:
        raise BadOption(
            "--leave-out", f"no {kind} can be left out of these data", "Measure more of them"
        )
    return {
        "kind": str(kind),
        "groups": found.groups,
        "cells": found.cells,
        "median_error": found.median_error,
        "p90_error": found.p90_error,
        "interval_hits": found.interval_hits,
        "ratio_error": found.ratio_error,
    }


def _beside_words(fit: "FitSummary") -> str:
    beside = fit["remembered"]
    if not beside["cells"]:
        return ""
    return f" and {beside['cells']} of {count_text(beside['reviews'], 'other review')}"


def _print(value: "Limits", reference: str) -> None:
    fit = value["fit"]
    print(
        f"{fit['runs']} cells{_beside_words(fit)}, {fit['unknowns']} parameters, residuals "
        f"{percent_text(fit['residual_median'], decimals=1)} (median), "
        f"{percent_text(fit['residual_p90'], decimals=1)} (nine in ten)"
    )
    for out in (*value["capped"], *value["withheld"]):
        print(f"left out: {out['rig']}, {out['case']}: {out['why']}")
    for cell in value["cells"]:
        rate = fps_text(cell["average_fps"])
        print(f"{cell['rig']}, {cell['case']}: {rate}, limit {cell['limit']}")
    for one in value["loss"]:
        print(
            f"{one['rig']}, {one['case']}: {one['lost_fps']:.1f} lost against {reference}: "
            f"link {one['link']:.1f}, host {one['host']:.1f}, screen {one['screen']:.1f}, "
            f"card {one['card']:.1f}, unexplained {one['unexplained']:.1f}"
        )
    for foreseen in value["predictions"]:
        rate, low, high = (
            fps_text(one)
            for one in (foreseen["average_fps"], foreseen["low_80"], foreseen["high_80"])
        )
        beyond = f"; outside what was measured: {list_text(foreseen['outside'])}"
        print(
            f"{foreseen['rig']}, {foreseen['case']} over {foreseen['link']}: {rate} foreseen, "
            f"80\u202f% between {low} and {high}{beyond if foreseen['outside'] else ''}"
        )
    if turn := value["left_out"]:
        print(
            f"left out in turn ({turn['kind']}): {percent_text(turn['median_error'], decimals=1)} "
            f"median error, {percent_text(turn['interval_hits'])} inside their 80 % interval"
        )
