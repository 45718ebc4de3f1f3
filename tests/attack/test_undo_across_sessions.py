"""Undo and redo over sessions that open, close and overwrite one another, held against a model of
the journal that is written down apart from it.
"""

import os
import random
from dataclasses import dataclass, field

import pytest

from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.logbook import ChangedElsewhere, Logbook

STEPS = int(os.environ.get("ATTACK_EDITS", "60"))
SEEDS = range(int(os.environ.get("ATTACK_SEED", "0")), int(os.environ.get("ATTACK_SEED", "0")) + 6)
RIGS = ("a", "b", "c")


@dataclass
class Edit:
    label: str
    author: int
    rig: str
    before: str | None
    after: str | None


@dataclass
class Model:
    """What should be: names of rigs, and edits in the order in which they were done or undone."""

    names: dict[str, str] = field(default_factory=dict)
    done: list[Edit] = field(default_factory=list)
    undone: list[Edit] = field(default_factory=list)
    open: set[int] = field(default_factory=set)
    passed: dict[int, list[Edit]] = field(default_factory=dict)

    def commit(self, who, label, rig, after):
        self.undone = [edit for edit in self.undone if edit.author in self.open - {who}]
        self.done.append(Edit(label, who, rig, self.names.get(rig), after))
        self._put(rig, after)

    def next(self, who, edits):
        for edit in reversed(edits):
            if edit.author not in self.open - {who} and edit not in self.passed.setdefault(who, []):
                return edit
        return None

    def take(self, who, forwards):
        """The label taken; None for nothing; a ChangedElsewhere where it would lose a change."""
        source, target = (self.undone, self.done) if forwards else (self.done, self.undone)
        edit = self.next(who, source)
        if edit is None:
            return None
        if self.names.get(edit.rig) != (edit.before if forwards else edit.after):
            self.passed[who].append(edit)
            raise ChangedElsewhere(edit.label, "", "")
        source.remove(edit)
        target.append(edit)
        self._put(edit.rig, edit.after if forwards else edit.before)
        return edit.label

    def _put(self, rig, name):
        if name is None:
            self.names.pop(rig, None)
        else:
            self.names[rig] = name


@pytest.mark.parametrize("seed", SEEDS)
def test_undo_and_redo_are_those_of_the_model(tmp_path, seed):
    rng = random.Random(seed)
    path = tmp_path / "shared.blunt"
    Logbook.create(path).close()
    model, books = Model(), {}
    for step in range(STEPS):
        if not books or (len(books) < 3 and rng.random() < 0.1):
            books[step] = Logbook.open(path)
            model.open.add(step)
        who = rng.choice(list(books))
        book, how = books[who], rng.random()
        if how < 0.35:
            rig = rng.choice(RIGS)
            name = None if rig in model.names and rng.random() < 0.2 else f"{rig} {step}"
            if name is None:
                book.commit(f"edit {step}", drop=[Rig(id=rig, name="any")])
            else:
                book.commit(f"edit {step}", put=[Rig(id=rig, name=name)])
            model.commit(who, f"edit {step}", rig, name)
        elif how < 0.9:
            forwards = how > 0.62
            try:
                model.take(who, forwards)
            except ChangedElsewhere as error:
                with pytest.raises(ChangedElsewhere, match=f"^{error.where}: changed in another"):
                    book.redo() if forwards else book.undo()
            else:
                book.redo() if forwards else book.undo()
        else:
            books.pop(who).close()
            model.open.discard(who)
            continue
        assert {key: rig.name for key, rig in book.contents().rigs.items()} == model.names
        for one, reader in books.items():
            undo, redo = model.next(one, model.done), model.next(one, model.undone)
            assert reader.next_undo() == (undo and undo.label)
            assert reader.next_redo() == (redo and redo.label)
    for book in books.values():
        book.close()


def test_a_new_edit_ends_what_a_closed_session_could_redo(tmp_path):
    path = tmp_path / "a.blunt"
    rig = Rig(id="r", name="First")
    with Logbook.create(path) as book:
        book.commit("E1", put=[rig])
        book.undo()
    with Logbook.open(path) as book:
        assert book.next_redo() == "E1"
        book.commit("E2", put=[rig.model_copy(update={"name": "Second"})])
        assert book.next_redo() is None
        book.undo()
        assert book.redo()["rigs"]["r"].name == "Second"


def test_redo_takes_what_was_undone_last_whoever_did_it(tmp_path):
    path = tmp_path / "a.blunt"
    with Logbook.create(path) as one:
        one.commit("E1", put=[Rig(id="r1", name="First")])
        with Logbook.open(path) as two:
            two.commit("E2", put=[Rig(id="r2", name="Second")])
            one.undo()
            two.undo()
        assert [one.next_redo(), *one.redo(), one.next_redo()] == ["E2", "rigs", "E1"]


def test_an_edit_whose_record_another_window_uses_is_passed_over(tmp_path):
    from blunt_ruler.core.records.pricing import Price

    path = tmp_path / "a.blunt"
    with Logbook.create(path) as one, Logbook.open(path) as two:
        one.commit("name it", put=[Rig(id="r1", name="First")])
        one.commit("add a rig", put=[Rig(id="r2", name="Second")])
        two.commit("price", put=[Price(id="p", rig_id="r2", amount=9)])
        with pytest.raises(ChangedElsewhere, match="another window has used"):
            one.undo()
        assert "r2" in one.contents().rigs
        assert one.next_undo() == "name it"
