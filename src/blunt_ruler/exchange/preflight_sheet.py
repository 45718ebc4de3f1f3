"""The pre-flight list of a rig as a page to print: boxes to tick, readings to fill in, cautions."""

from html import escape

from blunt_ruler.core.records.hardware import TickState
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.cautions import CAUTIONS, DEFER
from blunt_ruler.core.rigs.compatibility import check_fit
from blunt_ruler.core.rigs.preflight import Reading, latest_ticks, steps_for
from blunt_ruler.core.text import capital

BOXES = {None: "☐", TickState.DONE: "☑", TickState.SKIPPED: "☐ skipped"}


def preflight_html(contents: Contents, rig_id: str, printed_on: str) -> str:
    """One page of HTML, which Qt prints and a browser shows."""
    rig = contents.rigs[rig_id]
    ticks = latest_ticks(contents, rig_id)
    rows = []
    for number, step in enumerate(steps_for(contents, rig_id), start=1):
        tick = ticks.get(step.key)
        cautions = "".join(
            f"<br><small>▲ {escape(CAUTIONS[key].says)}</small>" for key in step.cautions
        )
        reading = ""
        if step.reading is not Reading.NONE:
            unit = "" if step.reading is Reading.LINK else f" {step.reading}"
            held = tick.reading if tick and tick.reading else "________"
            wanted = f"<br><small>expected {step.expected}{unit}</small>" if step.expected else ""
            reading = f"{escape(held)}{unit}{wanted}"
        box = BOXES[tick.state if tick else None]
        rows.append(
            f"<tr><td>{box}</td><td>{number}</td><td>{escape(step.do)}{cautions}</td>"
            f"<td>{reading}</td></tr>"
        )
    found = "".join(
        f"<li>{finding.severity}: {escape(capital(finding.what))} {escape(finding.do)}.</li>"
        for finding in check_fit(contents, rig_id)
    )
    against = f"<ul>{found}</ul>" if found else "<p>Nothing found against it.</p>"
    return (
        "<!DOCTYPE html><html lang='en'><head><meta charset='utf-8'>"
        f"<title>Pre-flight: {escape(rig.name)}</title></head><body>"
        f"<h2>Pre-flight: {escape(rig.name)}</h2><p>{escape(printed_on)}</p>"
        f"<h3>Fit and power</h3>{against}<h3>Steps</h3>"
        "<table cellpadding='5' border='1' cellspacing='0' width='100%'>"
        "<tr><th></th><th></th><th align='left'>step</th><th align='left'>reading</th></tr>"
        f"{''.join(rows)}</table><p><b>{escape(DEFER)}</b></p></body></html>"
    )
