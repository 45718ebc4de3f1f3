"""What the Bench does outside the window: reading machines, sweeping, parts in files, printing."""

import tempfile
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, TypeAlias, cast

from PyQt6.QtGui import QGuiApplication

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.ui.desk.controller import Controller, Hub
from blunt_ruler.ui.desk.snapshot import new_id

if TYPE_CHECKING:
    from PyQt6.QtCore import QObject

    from blunt_ruler.core.rigs.machine_report import Machine
    from blunt_ruler.core.rigs.rig_edits import Part
    from blunt_ruler.core.types import Progress
    from blunt_ruler.ui.bench.ladder_page import LadderPage
    from blunt_ruler.ui.bench.machine_page import MachinePage
    from blunt_ruler.ui.bench.preflight_page import PreflightPage
    from blunt_ruler.ui.bench.view import BenchStop

Curve: TypeAlias = tuple[tuple[float, float], ...]
Sweep: TypeAlias = tuple[float, str, Curve]
"""The bandwidth in GB/s, how it was measured, and (block MB, GB/s) block by block."""

PARTS_FILTER = "Parts (*.json *.csv)"
PRINT_FILTER = "PDF (*.pdf);;HTML (*.html)"
SWEEP_SEED = 1


class BenchController(Controller):
    """Between the Bench, the desk, the bench devices and files."""

    name = "Bench"

    def __init__(self, hub: "Hub", parent: "QObject") -> None:
        super().__init__(hub, parent)
        self._bench: BenchStop | None = None
        self.desk.error_raised.connect(self._on_refused)
        self.desk.conflict_raised.connect(self._on_refused)

    def _on_refused(self, _why: object) -> None:
        """An edit was not made."""
        if self._bench is not None:
            self._bench.forget_sent()

    def let_go(self) -> None:
        """Forget the view."""
        self._bench = None
        super().let_go()

    def build(self) -> "BenchStop":
        """The view."""
        from blunt_ruler.ui.bench import view

        self._bench = stop = view.BenchStop()
        stop.parts_requested.connect(self._on_parts)
        stop.when_built(view.LADDER, self._connect_ladder)
        stop.when_built(view.PREFLIGHT, self._connect_preflight)
        stop.when_built(view.MACHINE, self._connect_machine)
        return stop

    def mark_stale(self) -> None:
        """There is another snapshot; what it brings need not be shown ahead of it any more."""
        super().mark_stale()
        if self._bench is not None and self.desk.snapshot is not None:
            self._bench.take_note(self.desk.snapshot)

    def _connect_ladder(self, page: "LadderPage") -> None:
        page.sweep_requested.connect(self._on_sweep)
        page.import_requested.connect(self._ask_sweep)

    def print_page(self) -> bool:
        """Ask where to put the list of the pre-flight that is looked at."""
        from blunt_ruler.ui.bench.view import PREFLIGHT

        stop = self._bench
        looked_at = stop is not None and stop.current == PREFLIGHT
        if looked_at and stop is not None:
            cast("PreflightPage", stop.page(PREFLIGHT)).print.click()
        return looked_at

    def _connect_preflight(self, page: "PreflightPage") -> None:
        page.print_requested.connect(self._ask_print)

    # The machine

    def _connect_machine(self, page: "MachinePage") -> None:
        page.look_requested.connect(lambda wanted: self._on_look(page, wanted))
        page.fill_requested.connect(self._on_fill)

    def _on_look(self, page: "MachinePage", wanted: str) -> None:
        def work(_step: "Progress") -> "Machine":
            from blunt_ruler.bench.machines import lay_out, machine_names
            from blunt_ruler.bench.probe import probe

            if wanted not in machine_names():
                return probe(Path(wanted))
            with tempfile.TemporaryDirectory() as folder:
                return probe(lay_out(wanted, Path(folder)))

        self.jobs.run("Reading the machine", work, page.show_machine, page.show_error)

    def _on_fill(self, machine: "Machine") -> None:
        from blunt_ruler.core.rigs.machine_report import fill_rig

        rig_id = self.stop.chosen.rig
        try:
            self.desk.apply(fill_rig(self.snapshot.contents, rig_id, machine, new_id))
        except UserFixable as error:
            self.say_wrong(error)

    # Bandwidth

    def _on_sweep(self, rig_id: str) -> None:
        name = self.snapshot.contents.rigs[rig_id].name

        def work(_step: "Progress") -> "Sweep":
            from blunt_ruler.bench.specs import bench_rig
            from blunt_ruler.bench.synthetics import bus_sweep

            rig = bench_rig(name)
            assert rig is not None, "the button says so"
            curve = bus_sweep(rig, SWEEP_SEED)
            block_mb, rate = curve[-1]
            return rate, f"simulated bus sweep, {block_mb:g} MB blocks", curve

        self.run("Playing the bus sweep", work, lambda found: self._measured(rig_id, *found))

    def _ask_sweep(self, rig_id: str) -> None:
        self.ask_open("Import a sweep", "*.csv *.txt", lambda p: self.import_sweep(rig_id, p))

    def import_sweep(self, rig_id: str, path: Path) -> None:
        """Take a rig's measured bandwidth from a sweep another program wrote."""

        def work(_step: "Progress") -> "Sweep":
            from blunt_ruler.exchange.tables.sweeps import read_curve

            curve = read_curve(path)
            told = curve if any(block for block, _ in curve) else ()
            return max(rate for _, rate in curve), f"sweep {path.name}", told

        self.run(f"Reading {path.name}", work, lambda found: self._measured(rig_id, *found))

    def _measured(self, rig_id: str, gb_per_s: float, how: str, curve: "Curve") -> None:
        from blunt_ruler.core.rigs.rig_edits import measured_bandwidth

        rig = self.snapshot.contents.rigs[rig_id]
        self.desk.apply(measured_bandwidth(rig, gb_per_s, how, curve))

    # Parts

    def _on_parts(self, what: str) -> None:
        wishes: dict[str, Callable[[], None]] = {
            "catalogue": self._add_catalogue,
            "import": lambda: self.ask_open("Import parts", PARTS_FILTER, self.import_parts),
            "paste": self._paste,
            "export": lambda: self.ask_save(
                "Export parts", "parts.json", "*.json", self.export_parts
            ),
        }
        wishes[what]()

    def _add_parts(self, read: Callable[[], tuple["Part", ...]], only_new: bool = False) -> None:
        """Read parts off the interface thread and add them."""
        from blunt_ruler.core.rigs.rig_edits import add_parts

        def done(parts: tuple["Part", ...]) -> None:
            self.desk.apply(add_parts(self.snapshot.contents, parts, only_new))

        self.run("Reading parts", lambda _step: read(), done)

    def _add_catalogue(self) -> None:
        from blunt_ruler.exchange.parts.part_files import catalogue

        self._add_parts(lambda: catalogue(new_id), only_new=True)

    def import_parts(self, path: Path) -> None:
        """Read parts from a file."""
        from blunt_ruler.exchange.parts.part_files import read_part_file

        contents = self.snapshot.contents
        self._add_parts(lambda: read_part_file(path, contents, new_id))

    def _paste(self) -> None:
        from blunt_ruler.exchange.parts.part_files import read_parts

        clipboard = QGuiApplication.clipboard()
        text = clipboard.text() if clipboard is not None else ""
        contents = self.snapshot.contents
        self._add_parts(lambda: read_parts(text, contents, new_id, "pasted"))

    def export_parts(self, path: Path) -> None:
        """Write all parts of the logbook as JSON or CSV, by the name's ending."""
        from blunt_ruler.core.rigs.rig_edits import all_parts
        from blunt_ruler.exchange.parts.part_files import parts_csv, parts_json

        parts = all_parts(self.snapshot.contents)
        self.write(path, lambda: (parts_csv if path.suffix == ".csv" else parts_json)(parts))

    # Printing

    def _ask_print(self, rig_id: str) -> None:
        name = self.snapshot.contents.rigs[rig_id].name.lower().replace(" ", "-")
        self.ask_save(
            "Print the list",
            f"preflight-{name}.pdf",
            PRINT_FILTER,
            lambda path: self.print_list(rig_id, path),
        )

    def print_list(self, rig_id: str, path: Path) -> None:
        """Write the pre-flight list as PDF, or as HTML where the name ends so."""
        from blunt_ruler.exchange.documents.preflight_sheet import preflight_html, preflight_pdf

        contents, today = self.snapshot.contents, date.today().isoformat()
        made = preflight_html if path.suffix == ".html" else preflight_pdf
        self.write(path, lambda: made(contents, rig_id, today))
