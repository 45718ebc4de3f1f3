"""What the Bench does outside the window: reading machines, sweeping, parts in files, printing."""

import tempfile
from collections.abc import Callable
from datetime import date
from pathlib import Path

from PyQt6.QtGui import QGuiApplication, QPageSize, QPdfWriter, QTextDocument
from PyQt6.QtWidgets import QFileDialog

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.hardware import Card, Host, Link
from blunt_ruler.core.rigs.machine_report import Machine, described_by
from blunt_ruler.exchange.part_files import Part, catalogue, parts_csv, parts_json, read_parts
from blunt_ruler.exchange.preflight_sheet import preflight_html
from blunt_ruler.files import write_whole
from blunt_ruler.ui.bench.view import BenchStop
from blunt_ruler.ui.desk import Desk, Snapshot, new_id
from blunt_ruler.ui.jobs import Jobs
from blunt_ruler.ui.notices import Banner

PARTS_FILTER = "Parts (*.json *.csv)"
SWEEP_SEED = 1


class BenchDeeds:
    """Connects the Bench's wishes to the desk, the bench devices and files."""

    def __init__(self, stop: BenchStop, desk: Desk, banner: Banner) -> None:
        self._stop = stop
        self._desk = desk
        self._banner = banner
        self._jobs = Jobs(threads=1, parent=desk)
        stop.edit_requested.connect(lambda label, records: desk.commit(label, put=records))
        stop.parts_requested.connect(self._on_parts)
        stop.ladder_page.sweep_requested.connect(self._on_sweep)
        stop.ladder_page.import_requested.connect(self._ask_sweep)
        stop.preflight_page.tick_requested.connect(desk.tick)
        stop.preflight_page.print_requested.connect(self._on_print)
        stop.machine_page.look_requested.connect(self._on_look)
        stop.machine_page.fill_requested.connect(self._on_fill)

    @property
    def _spread(self) -> Snapshot:
        assert self._desk.spread is not None, "the Bench is shown with a logbook open"
        return self._desk.spread

    # The machine

    def _on_look(self, wanted: str) -> None:
        from blunt_ruler.bench.machines import lay_out, machine_names
        from blunt_ruler.bench.probe import probe

        def work(_step: object) -> Machine:
            if wanted not in machine_names():
                return probe(Path(wanted))
            with tempfile.TemporaryDirectory() as folder:
                return probe(lay_out(wanted, Path(folder)))

        page = self._stop.machine_page
        self._jobs.run("Reading the machine", work, page.show_machine, page.show_error)

    def _on_fill(self, machine: Machine) -> None:
        """Fill in the rig's own parts; parts it lacks are made."""
        contents = self._spread.contents
        rig_id = self._stop._rig_id
        if rig_id is None:
            return
        rig = contents.rigs[rig_id]
        host = contents.host_of(rig_id) or Host(id=new_id(), name=f"Host of {rig.name}")
        card = contents.card_of(rig_id) or Card(id=new_id(), name=f"Card of {rig.name}")
        link = contents.link_of(rig_id) or Link(id=new_id(), name=f"Link of {rig.name}")
        try:
            host, card, link = described_by(machine, host, card, link)
        except UserFixable as error:
            self._banner.show_error(error)
            return
        filled = rig.model_copy(update={"host_id": host.id, "card_id": card.id, "link_id": link.id})
        self._desk.commit(f"fill in {rig.name} from the machine", put=[host, card, link, filled])

    def _on_sweep(self, rig_id: str) -> None:
        from blunt_ruler.bench.specs import bench_rigs
        from blunt_ruler.bench.synthetics import bus_sweep

        rig = self._spread.contents.rigs[rig_id]
        sweep = bus_sweep(bench_rigs()[rig.name], SWEEP_SEED)
        block_mb, rate = sweep[-1]
        self._measured(rig_id, rate, f"simulated bus sweep, {block_mb:g} MB blocks")

    def _ask_sweep(self, rig_id: str) -> None:
        text, _ = QFileDialog.getOpenFileName(self._stop, "Import a sweep", "", "*.csv *.txt")
        if text:
            self.import_sweep(rig_id, Path(text))

    def import_sweep(self, rig_id: str, path: Path) -> None:
        """Take a rig's measured bandwidth from a sweep another program wrote."""
        from blunt_ruler.exchange.sweeps import read_sweep

        try:
            rate = read_sweep(path)
        except UserFixable as error:
            self._banner.show_error(error)
            return
        self._measured(rig_id, rate, f"sweep {path.name}")

    def _measured(self, rig_id: str, gb_per_s: float, how: str) -> None:
        rig = self._spread.contents.rigs[rig_id]
        changed = rig.model_copy(
            update={"measured_gb_per_s": round(gb_per_s, 3), "measured_how": how}
        )
        self._desk.commit(f"bus sweep of {rig.name}", put=[changed])

    # Parts

    def _on_parts(self, what: str) -> None:
        deeds: dict[str, Callable[[], None]] = {
            "catalogue": lambda: self._put_parts(lambda: self._new_only(catalogue(new_id))),
            "import": self._ask_import,
            "paste": self._paste,
            "export": self._ask_export,
        }
        deeds[what]()

    def _put_parts(self, read: Callable[[], tuple[Part, ...]]) -> None:
        try:
            parts = read()
        except UserFixable as error:
            self._banner.show_error(error)
            return
        self._desk.commit(f"add {len(parts)} parts", put=parts)
        self._banner.show_said(f"{len(parts)} parts are in the logbook; choose them on a rig.")

    def _new_only(self, parts: tuple[Part, ...]) -> tuple[Part, ...]:
        contents = self._spread.contents
        known = {
            part.name
            for table in (contents.hosts, contents.cards, contents.docks, contents.links)
            for part in table.values()
        }
        return tuple(part for part in parts if part.name not in known)

    def import_parts(self, path: Path) -> None:
        """Read parts from a file."""

        def read() -> tuple[Part, ...]:
            try:
                text = path.read_text("utf-8-sig")
            except (OSError, UnicodeDecodeError) as error:
                raise UserFixable(
                    path.name, f"cannot be read ({error})", "Give a UTF-8 file"
                ) from error
            return read_parts(text, self._spread.contents, new_id, path.name)

        self._put_parts(read)

    def _ask_import(self) -> None:
        text, _ = QFileDialog.getOpenFileName(self._stop, "Import parts", "", PARTS_FILTER)
        if text:
            self.import_parts(Path(text))

    def _paste(self) -> None:
        clipboard = QGuiApplication.clipboard()
        text = clipboard.text() if clipboard is not None else ""
        self._put_parts(lambda: read_parts(text, self._spread.contents, new_id, "pasted"))

    def export_parts(self, path: Path) -> None:
        """Write all parts of the logbook as JSON or CSV, by the name's ending."""
        contents = self._spread.contents
        parts = [
            *contents.hosts.values(),
            *contents.cards.values(),
            *contents.docks.values(),
            *contents.links.values(),
        ]
        body = parts_csv(parts) if path.suffix == ".csv" else parts_json(parts)
        self._write(path, body)

    def _ask_export(self) -> None:
        text, _ = QFileDialog.getSaveFileName(self._stop, "Export parts", "parts.json", "*.json")
        if text:
            self.export_parts(Path(text))

    # Printing

    def _on_print(self, rig_id: str) -> None:
        name = self._spread.contents.rigs[rig_id].name.lower().replace(" ", "-")
        text, _ = QFileDialog.getSaveFileName(
            self._stop, "Print the list", f"preflight-{name}.pdf", "PDF (*.pdf);;HTML (*.html)"
        )
        if text:
            self.print_list(rig_id, Path(text))

    def print_list(self, rig_id: str, path: Path) -> None:
        """Write the pre-flight list as PDF, or as HTML where the name ends so."""
        html = preflight_html(self._spread.contents, rig_id, date.today().isoformat())
        if path.suffix == ".html":
            self._write(path, html)
            return
        document = QTextDocument()
        document.setHtml(html)
        with tempfile.TemporaryDirectory() as folder:
            part = Path(folder) / "list.pdf"
            writer = QPdfWriter(str(part))
            writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
            writer.setTitle(f"Pre-flight: {self._spread.contents.rigs[rig_id].name}")
            document.print(writer)
            del writer
            self._write(path, part.read_bytes())

    def _write(self, path: Path, body: bytes | str) -> None:
        try:
            write_whole(path, body)
        except UserFixable as error:
            self._banner.show_error(error)
        else:
            self._banner.show_said(f"Written: {path}")
