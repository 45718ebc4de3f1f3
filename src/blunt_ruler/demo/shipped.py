"""The demo logbook as it is shipped. Apart from its builder, which takes long to import."""

import shutil
from pathlib import Path

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.files import placed, shipped


def copy_demo(out: Path) -> Path:
    """Copy the shipped demo logbook to `out`; an error where something is there already."""
    try:
        with placed(out, replace=False) as part:
            shutil.copyfile(shipped("demo", "demo.blunt"), part)
    except FileExistsError as error:
        raise UserFixable(
            str(out), "a file of that name is already there", "Choose another name"
        ) from error
    return out
