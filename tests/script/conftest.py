import pytest

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.script.check import Checker
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.logbook import Logbook


@pytest.fixture(scope="session")
def checker(tmp_path_factory):
    """What will be said, held against the demo."""
    path = copy_demo(tmp_path_factory.mktemp("script") / "demo.blunt")
    with Logbook.reading(path) as book:
        contents = book.contents()
    return Checker(analyse(contents, next(iter(contents.reviews.values()))))
