"""A software bill of materials: what the program is built, tested and shipped with, from the lock
file, as CycloneDX 1.5 JSON. The same lock file gives the same bytes.
"""

import json
import re
import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]
PINNED = re.compile(r"^([A-Za-z0-9._-]+)==(\S+)", re.MULTILINE)
HASH = re.compile(r"--hash=sha256:([0-9a-f]{64})")


def components(lock: str) -> list[dict[str, object]]:
    """Every pinned package, with the hashes of the files that may be installed of it."""
    starts = [*PINNED.finditer(lock)]
    ends = [one.start() for one in starts[1:]] + [len(lock)]
    return [
        {
            "type": "library",
            "name": one[1],
            "version": one[2],
            "purl": f"pkg:pypi/{one[1].lower().replace('_', '-')}@{one[2]}",
            "hashes": [
                {"alg": "SHA-256", "content": digest}
                for digest in sorted(HASH.findall(lock[one.start() : end]))
            ],
        }
        for one, end in zip(starts, ends, strict=True)
    ]


def bill(version: str, lock: str) -> str:
    """The whole bill as text."""
    document = {
        "bomFormat": "CycloneDX",
        "specVersion": "1.5",
        "version": 1,
        "metadata": {
            "component": {
                "type": "application",
                "name": "blunt-ruler",
                "version": version,
                "licenses": [{"license": {"id": "MIT"}}],
            }
        },
        "components": components(lock),
    }
    return json.dumps(document, indent=1) + "\n"


if __name__ == "__main__":
    from blunt_ruler import __version__

    Path(sys.argv[1]).write_text(
        bill(__version__, (ROOT / "requirements.lock").read_text("utf-8")), "utf-8"
    )
