"""Commands of the bench: the link ladder, fit and power, and a look at the machine."""

from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from blunt_ruler.cli.common import JsonFlag, ReviewName, app, print_json, read_logbook, rig_id
from blunt_ruler.core.records.hardware import Blanking, Hop
from blunt_ruler.core.rigs.compatibility import check_fit, fit_line
from blunt_ruler.core.rigs.links import bandwidth_ladder, why_below
from blunt_ruler.core.rigs.machine_report import besides_line, card_seen, device_line, path_of
from blunt_ruler.core.rigs.notation import BadSpec, parse_devices, parse_hop, parse_screen
from blunt_ruler.core.rigs.pasted import as_machine, read_pasted
from blunt_ruler.core.rigs.video_timing import timed_stream_gb_per_s
from blunt_ruler.core.text import capital

if TYPE_CHECKING:
    from blunt_ruler.cli.documents import LinkDocument


@app.command()
def link(
    hop: Annotated[
        list[str] | None, typer.Option(help="A hop from the host on, as “4.0x4”; repeatable.")
    ] = None,
    tunnel: Annotated[float | None, typer.Option(help="Rate of a tunnel on the way, Gb/s.")] = None,
    payload: Annotated[int, typer.Option(help="Maximum payload: 128, 256 or 512 bytes.")] = 256,
    screen: Annotated[
        str | None, typer.Option(help="A picture sent back, as 1920x1080@60x32.")
    ] = None,
    display: Annotated[
        str | None, typer.Option(help="A display stream in the tunnel, as 2560x1440@60x24.")
    ] = None,
    blanking: Annotated[
        Blanking, typer.Option(help="The blanking of that stream.")
    ] = Blanking.NONE,
    devices: Annotated[
        str,
        typer.Option("--devices", help="What else it carries, as “capture card 0.5 GB/s from it”."),
    ] = "",
    at_fps: Annotated[float, typer.Option("--at-fps", help="Frame rate for MB per frame.")] = 60.0,
    measured: Annotated[float | None, typer.Option(help="Measured bandwidth, GB/s.")] = None,
    as_json: JsonFlag = False,
) -> None:
    """What a link can carry, step by step."""
    hops = [parse_hop(words, number) for number, words in enumerate(hop or [], start=1)]
    for name, value in (("--tunnel", tunnel), ("--measured", measured), ("--at-fps", at_fps)):
        if value is not None and not 0 < value < 1e4:
            raise BadSpec(name, f"{value:g} is out of range", "Give a number above 0")
    if tunnel is not None:
        hops.append(Hop(name="tunnel", tunnel_gbps=tunnel))
    stream = timed_stream_gb_per_s(parse_screen(display), blanking) if display else 0.0
    back = parse_screen(screen) if screen else None
    ladder = bandwidth_ladder(hops, payload, back, measured, stream, parse_devices(devices))
    agreed = ladder.negotiated
    if as_json:
        document: LinkDocument = {
            "negotiated": {
                "generation": agreed.generation,
                "lanes": agreed.lanes,
                "set_by": {
                    "generation": agreed.generation_set_by,
                    "lanes": agreed.lanes_set_by,
                },
            }
            if agreed
            else None,
            "line_rate_gtps": ladder.line_rate_gtps,
            "encoded_gbps": _times_8(ladder.encoded_gb_per_s),
            "encoded_gb_per_s": ladder.encoded_gb_per_s,
            "payload_bytes": ladder.payload_bytes,
            "packet_efficiency": ladder.packet_efficiency,
            "payload_gb_per_s": ladder.payload_gb_per_s,
            "tunnel_gbps": ladder.tunnel_gbps,
            "practice_low_gb_per_s": ladder.practice_low_gb_per_s,
            "practice_high_gb_per_s": ladder.practice_high_gb_per_s,
            "measured_gb_per_s": ladder.measured_gb_per_s,
            "return_gb_per_s": ladder.return_gb_per_s,
            "left_gb_per_s": ladder.left_gb_per_s,
            "least_left_gb_per_s": ladder.least_left_gb_per_s,
            "left_down_gb_per_s": ladder.left_gb_per_s,
            "left_back_gb_per_s": ladder.left_back_gb_per_s,
            "per_frame_mb": ladder.per_frame_mb(at_fps),
        }
        print_json(document)
        return
    for rung in ladder.rungs:
        least = rung.least_gb_per_s
        from_least = f"{least:.3f} to " if least not in (None, rung.gb_per_s) else ""
        print(
            f"{rung.name:<20} {from_least}{rung.gb_per_s:7.3f} GB/s {rung.gbps:8.2f} Gb/s  "
            f"{rung.why}"
        )
    print(
        f"in practice {ladder.practice_low_gb_per_s:.2f} to {ladder.practice_high_gb_per_s:.2f} "
        f"GB/s; {ladder.per_frame_words(at_fps)} a frame at {at_fps:g} fps"
    )
    if why := why_below(ladder):
        print(why)


def _times_8(value: float | None) -> float | None:
    return None if value is None else value * 8.0


@app.command("fit-check")
def fit_check(
    logbook: Annotated[Path, typer.Argument(help="A logbook.")],
    rig: Annotated[str, typer.Option(help="Which rig.")],
    review: ReviewName = None,
    as_json: JsonFlag = False,
) -> None:
    """What is found against a rig: does the card fit, can it be powered and driven."""
    contents, chosen = read_logbook(logbook, review)
    key = rig_id(contents, chosen, rig, anywhere=True)
    findings = check_fit(contents, key)
    if as_json:
        print_json([asdict(finding) for finding in findings])
        return
    print(fit_line(contents.rigs[key].name, findings))
    for finding in findings:
        print(f"{finding.severity}: {finding.what} {finding.do}.")


@app.command("probe")
def probe_command(
    root: Annotated[Path, typer.Option(help="Root of the device tree.")] = Path("/"),
    pasted: Annotated[
        Path | None, typer.Option(help="A text of what another system shows, instead.")
    ] = None,
    as_json: JsonFlag = False,
) -> None:
    """A read-only look at this machine's graphics devices and links."""
    from blunt_ruler.bench.probe import probe
    from blunt_ruler.exchange.scripts import load_script

    machine = as_machine(read_pasted(load_script(pasted))) if pasted is not None else probe(root)
    if as_json:
        print_json(asdict(machine))
        return
    if not machine.displays:
        print("No graphics device was found.")
        return
    for device in machine.displays:
        print(capital(device_line(device)))
    for state in path_of(card_seen(machine))[:-1]:
        if state.generation and state.lanes:
            print(f"  over {state.address}: PCIe {state.generation}.0 x{state.lanes}")
    if besides := besides_line(machine):
        print(besides)
