"""What a link can carry, from the published rates of its hops.

Decimal units, one direction. Rates after line code: PCI Express generations 1 and 2 use 8b/10b,
3 to 5 128b/130b, 6 flits of 256 bytes of which 242 are not error correction.
"""

from blunt_ruler.core.parts import Hop, Link

GT_PER_S = {1: 2.5, 2: 5.0, 3: 8.0, 4: 16.0, 5: 32.0, 6: 64.0}
LINE_CODE = {1: 8 / 10, 2: 8 / 10, 3: 128 / 130, 4: 128 / 130, 5: 128 / 130, 6: 242 / 256}


def encoded_gb_per_s(generation: int, lanes: int) -> float:
    """Rate after line code of a PCI Express stretch, in GB/s."""
    return GT_PER_S[generation] * LINE_CODE[generation] * lanes / 8.0


def hop_gb_per_s(hop: Hop) -> float | None:
    """The most one hop can carry in GB/s; None where it is not described."""
    rates = []
    if hop.generation is not None and hop.lanes is not None:
        rates.append(encoded_gb_per_s(hop.generation, hop.lanes))
    if hop.tunnel_gbps is not None:
        rates.append(hop.tunnel_gbps / 8.0)
    return min(rates) if rates else None


def link_gb_per_s(link: Link | None) -> float | None:
    """The most a link can carry in GB/s: its narrowest hop. None where none is described."""
    rates = [rate for hop in (link.hops if link else ()) if (rate := hop_gb_per_s(hop))]
    return min(rates) if rates else None
