"""Machines that are not there: device trees written down, laid out in a folder when wanted.

Written as one text each, because a package cannot hold the links and colons of a real tree. The
probe reads the laid-out folder exactly as it reads a machine.
"""

import tomllib
from importlib.resources import files
from pathlib import Path


def machine_names() -> tuple[str, ...]:
    """Machines that are shipped."""
    folder = files("blunt_ruler.bench.machines")
    return tuple(
        sorted(
            entry.name.removesuffix(".toml")
            for entry in folder.iterdir()
            if entry.name.endswith(".toml")
        )
    )


def lay_out(name: str, root: Path) -> Path:
    """Write a shipped machine's tree under a folder; that folder."""
    text = files("blunt_ruler.bench.machines").joinpath(f"{name}.toml").read_text("utf-8")
    for path, content in tomllib.loads(text)["files"].items():
        place = root / path
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_text(f"{content}\n", "utf-8")
    return root
