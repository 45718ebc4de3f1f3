"""What is handed over is what was made of the same things, and nothing is kept beside it."""

import ast
import gc
import weakref
from pathlib import Path

import pytest

import blunt_ruler
from blunt_ruler.core.analysis.analyse import settle
from blunt_ruler.core.compare.comparability import CellStanding, Standing
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.severity import Severity

CORE = Path(blunt_ruler.__file__).parent / "core"


FILL = {"append", "add", "update", "setdefault", "pop", "clear", "extend", "of", "appendleft"}


class Thing:
    """Like another only where it is the same."""


def test_a_result_is_made_again_only_when_it_reads_otherwise():
    made, thing = [], Thing()

    def result(handover, *reads):
        return handover.of(("doubled", "cell"), reads, lambda: made.append(reads) or len(made))

    first = Handover()
    assert [result(first, thing, 1.0) for _ in range(3)] == [1, 1, 1]
    assert result(Handover(first), thing, 1.0) == 1
    assert result(Handover(first), thing, 2.0) == 2
    assert result(first, thing, 1.0) == 1, "what comes later changes nothing of before"
    assert result(Handover(first), Thing(), 1.0) == 3
    assert result(Handover(first), (thing,), 1.0) == 4


def test_what_fails_is_handed_to_nobody():
    handover = Handover()
    with pytest.raises(ZeroDivisionError):
        handover.of(("one",), (1,), lambda: 1 / 0)
    assert handover.of(("one",), (1,), lambda: 7) == 7


def test_with_an_analysis_goes_all_that_it_handed_over(demo_contents):
    contents = demo_contents.with_records({})
    found = settle(contents, contents.reviews["which-link"])
    again = settle(contents, contents.reviews["which-link"], before=found)
    watched = [weakref.ref(one.handover) for one in (found, again)]
    del found, again
    gc.collect()
    assert [one() for one in watched] == [None, None]


def stores(source: str) -> list[str]:
    """Names of a module's own mutable stores: dicts, lists, sets and what holds them, made empty
    or called for, that a function of the module fills.
    """
    tree = ast.parse(source)
    made = {}
    for node in tree.body:
        target = node.targets[0] if isinstance(node, ast.Assign) else getattr(node, "target", None)
        value = getattr(node, "value", None)
        if isinstance(target, ast.Name) and isinstance(
            value, ast.Dict | ast.List | ast.Set | ast.DictComp | ast.ListComp | ast.Call
        ):
            made[target.id] = value
    filled = set()
    for node in ast.walk(tree):
        if not isinstance(node, ast.FunctionDef | ast.Lambda):
            continue
        for inner in ast.walk(node):
            match inner:
                case ast.Call(func=ast.Attribute(value=ast.Name(id=name), attr=how)) if how in FILL:
                    filled.add(name)
                case ast.Call(
                    func=ast.Attribute(value=ast.Subscript(value=ast.Name(id=name)), attr=how)
                ) if how in FILL:
                    filled.add(name)
                case ast.Assign(targets=[ast.Subscript(value=ast.Name(id=name))]):
                    filled.add(name)
                case ast.AugAssign(
                    target=ast.Name(id=name) | ast.Subscript(value=ast.Name(id=name))
                ):
                    filled.add(name)
                case ast.Global(names=names):
                    filled.update(names)
    return sorted(made.keys() & filled)


# What decorators fill while modules are loaded, and nothing after.
REGISTRIES = {"registry.py": ["CHECKS"]}


def test_no_module_of_core_keeps_what_it_worked_out():
    found = {path: stores(path.read_text("utf-8")) for path in CORE.rglob("*.py")}
    found = {path.relative_to(CORE): names for path, names in found.items() if names}
    assert {path.name: names for path, names in found.items()} == REGISTRIES


@pytest.mark.parametrize(
    "store",
    ["_KEPT = {}", "_kept: dict = dict()", "_kept = Kept()", "_kept = deque(maxlen=3)"],
)
def test_a_store_planted_in_a_module_is_found(store):
    name = store.partition(" ")[0].rstrip(":")
    for fill in (
        f"{name}.append(1)",
        f"{name}.of(1)",
        f"{name}[1] = 2",
        f"{name}.setdefault(1, 2)",
    ):
        assert stores(f"{store}\n\ndef work():\n    {fill}\n") == [name]
    assert stores(f"{store}\n\ndef work():\n    return {name}\n") == []


def test_words_in_an_order_know_their_rank():
    assert [one.rank for one in Severity] == [0, 1, 2]
    assert max(Standing, key=lambda one: one.rank) is Standing.NOT_COMPARABLE
    assert CellStanding(Standing.CLEAN, Standing.MIXED).worst is Standing.MIXED
    assert CellStanding(Standing.NOT_COMPARABLE, Standing.MIXED).worst is Standing.NOT_COMPARABLE
