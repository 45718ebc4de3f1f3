"""The controllers of all stops, in the order of the rail. Their views come when first shown."""

from blunt_ruler.ui.bench.controller import BenchController
from blunt_ruler.ui.board.controller import BoardController
from blunt_ruler.ui.desk.controller import Controller
from blunt_ruler.ui.limits.controller import LimitsController
from blunt_ruler.ui.plan.controller import PlanController
from blunt_ruler.ui.runs.controller import RunsController
from blunt_ruler.ui.worth.controller import WorthController
from blunt_ruler.ui.writeup.controller import WriteUpController

CONTROLLERS: tuple[type[Controller], ...] = (
    BenchController,
    PlanController,
    RunsController,
    BoardController,
    LimitsController,
    WorthController,
    WriteUpController,
)
