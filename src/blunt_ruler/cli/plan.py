"""The plan of a review by command: order, clock, what is given up, and the run sheet."""

from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from blunt_ruler.cli.common import BadOption, JsonFlag, ReviewName, app, print_json, read_logbook
from blunt_ruler.core.plan.bench_plan import derive_bench_plan, enough_line, plan_line
from blunt_ruler.core.text import duration_text

if TYPE_CHECKING:
    from blunt_ruler.cli.documents import PlanDocument


@app.command("plan")
def plan_command(
    logbook: Annotated[Path, typer.Argument(help="A logbook.")],
    review: ReviewName = None,
    hours: Annotated[float | None, typer.Option(help="Hours available in all.")] = None,
    seed: Annotated[int, typer.Option(min=0, help="Seed of the shuffle inside rigs.")] = 0,
    sheet: Annotated[
        Path | None, typer.Option(help="Write the run sheet: .pdf, .html, .csv, .ods or .ics.")
    ] = None,
    page: Annotated[str, typer.Option(help="Page of the sheet: A4 or Letter.")] = "A4",
    as_json: JsonFlag = False,
) -> None:
    """Plan the bench days of a review."""
    if hours is not None and not 0 < hours < 10_000:
        raise BadOption("--hours", f"{hours:g} is out of range", "Give hours above 0")
    contents, chosen = read_logbook(logbook, review)
    worked = derive_bench_plan(contents, chosen, hours_h=hours, seed=seed)
    if sheet is not None:
        from blunt_ruler.exchange.documents.run_sheet import write_sheet

        write_sheet(contents, chosen, worked.table, sheet, date.today().isoformat(), page)
    if not as_json:
        print(plan_line(contents, chosen, worked))
        print(enough_line(contents, worked))
        for why in dict.fromkeys(one.why for one in worked.dropped):
            print(f"given up: {why}")
        for day in worked.table.days:
            print(f"{day.day}: {day.starts[11:]} to {day.ends[11:]}, {len(day.items)} steps")
        print(f"in all {duration_text(worked.order.minutes * 60)}")
        return
    value: PlanDocument = {
        "cells": [
            {
                "rig": contents.rigs[cell.rig_id].name,
                "case": contents.case_label(cell.case_id),
                "state": str(cell.state),
                "done": cell.done,
                "left": cell.left,
                "minutes": cell.minutes,
                "why": cell.why,
            }
            for cell in worked.cells
        ],
        "minutes": worked.order.minutes,
        "swaps": worked.order.swaps,
        "minutes_saved": worked.order.minutes_saved,
        "minutes_as_entered": worked.order.minutes_as_entered,
        "minutes_at_once": worked.order.minutes_at_once,
        "spread_repeats": worked.plan.spread_repeats,
        "order": [
            {
                "rig": contents.rigs[timed.item.rig_id].name,
                "case": contents.case_label(timed.item.case_id) if timed.item.case_id else None,
                "repeat": timed.item.repeat,
                "kind": str(timed.item.kind),
                "minutes": timed.item.minutes,
                "starts": timed.starts,
            }
            for day in worked.table.days
            for timed in day.items
        ],
        "dropped": [
            {
                "rig": contents.rigs[one.rig_id].name,
                "case": contents.case_label(one.case_id),
                "why": one.why,
            }
            for one in worked.dropped
        ],
        "optimal": worked.optimal,
        "of_best": worked.of_best,
        "tour_exact": worked.order.tour.exact,
        "tour_gap": worked.order.tour.gap,
        "finishes": worked.table.finishes,
        "slack_days": worked.table.slack_days,
        "seed": seed,
    }
    print_json(value)
