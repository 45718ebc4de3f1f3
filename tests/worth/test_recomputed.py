"""Cost per frame and lead in full, from the frames of the demo's traces and its list of prices.

Nothing of the product is used but the records themselves; means are SciPy's.
"""

from collections import defaultdict

import pytest
from scipy.stats import gmean

from blunt_ruler.core.board.percentages import pair_statements
from blunt_ruler.core.records.records import Decision
from blunt_ruler.core.worth.figures import WorthFigure

# What is still to buy for each rig, read off the demo's prices by hand: the host of the box is
# owned, the tower is not.
TO_BUY = {
    "Groyne Marram 12": 585.0,
    "Breakwater Marram 12": 675.0,
    "Sluice Marram 12": 755.0,
}


def mean_rates(contents, review):
    """Geometric mean over all cases of Σ frames / Σ time of the kept passes, by rig."""
    frames, seconds = defaultdict(int), defaultdict(float)
    for run in contents.runs.values():
        if run.decision is Decision.KEEP and run.figures and run.case_id in review.case_ids:
            frames[run.rig_id, run.case_id] += run.figures.frames
            seconds[run.rig_id, run.case_id] += run.figures.duration_s
    rates = defaultdict(list)
    for (rig_id, case_id), count in frames.items():
        rates[contents.rigs[rig_id].name].append(count / seconds[rig_id, case_id])
    return {rig: gmean(of_rig) for rig, of_rig in rates.items()}


def test_cost_per_frame_and_lead_follow_from_traces_and_prices(demo_contents, demo_analysis):
    rates = mean_rates(demo_contents, demo_analysis.review)
    rows = {row.column.name: row for row in demo_analysis.worth.rows}
    for name, cost in TO_BUY.items():
        figures = rows[name].figures
        assert figures[WorthFigure.COST].value == pytest.approx(cost)
        assert figures[WorthFigure.FRAMES].value == pytest.approx(rates[name], rel=1e-9)
        assert figures[WorthFigure.PER_FRAME].value == pytest.approx(cost / rates[name], rel=1e-9)
    tower = rates["Workbench Marram 12"]
    for name in TO_BUY:
        lead = {
            one.name: one.value
            for one in pair_statements(name, rates[name], "Workbench Marram 12", tower)
        }["the other's lead"]
        assert lead == pytest.approx((tower - rates[name]) / rates[name])
        loss = demo_analysis.board.totals[rows[name].column.rig_id].of_reference
        assert 1.0 / loss.ratio - 1.0 == pytest.approx(tower / rates[name] - 1.0, rel=1e-9)
