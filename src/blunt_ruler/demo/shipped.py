"""The demo logbook as it is shipped. Apart from its builder, which takes long to import."""

import shutil
from importlib.resources import as_file, files
from pathlib import Path

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.files import placed


def copy_demo(out: Path) -> Path:
    """Copy the shipped demo logbook to `out`; an error where something is there already."""
    try:
        with (
            as_file(files("blunt_ruler.demo").joinpath("demo.blunt")) as shipped,
            placed(out, replace=False) as part,
        ):
            shutil.copyfile(shipped, part)
    except FileExistsError as error:
        raise UserFixable(
            str(out), "a file of that name is already there", "Choose another name"
        ) from error
    return out
