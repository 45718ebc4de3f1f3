"""Reviews as people in the trade have them, in a few lines each."""

from dataclasses import dataclass, field, replace
from zlib import crc32

import numpy as np

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.claims.headline import board_headline
from blunt_ruler.core.claims.offer import claims_on
from blunt_ruler.core.claims.speak import speak
from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.measure.reading import FROM_LOG, HowRead
from blunt_ruler.core.records.hardware import Card, Hop, Host, Link, Rig, RigState
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Decision,
    Origin,
    Review,
    ReviewRig,
    Role,
    Run,
    Title,
    TypedFigures,
)

BASE, TESTED, REFERENCE = Role.BASE, Role.TESTED, Role.REFERENCE
LINKS = {"cable": (3, 4), "cord": (4, 4), "slot": (4, 16), "edge": (4, 8)}


@dataclass
class Lab:
    """A review in the making: rigs with their parts, and figures by rig, title and resolution."""

    spread: float = 0.004
    passes: int = 3
    contents: Contents = field(default_factory=Contents.empty)
    seats: list = field(default_factory=list)
    seed: int = 5

    def rig(self, name, role=TESTED, card="", host="", link="", state=None, built_in=False):
        tables = {"rigs": {}, "cards": {}, "hosts": {}, "links": {}}
        if card:
            tables["cards"][card] = Card(id=card, name=card, built_in=built_in)
        if host:
            tables["hosts"][host] = Host(id=host, name=host)
        if link:
            generation, lanes = LINKS[link]
            hop = Hop(name="hop", generation=generation, lanes=lanes)
            tables["links"][link] = Link(id=link, name=link, hops=(hop,))
        tables["rigs"][name] = Rig(
            id=name,
            name=name,
            card_id=card or None,
            host_id=host or None,
            link_id=link or None,
            state=state or RigState(),
        )
        self.contents = self.contents.with_records(tables)
        self.seats.append(ReviewRig(rig_id=name, role=role))
        return self

    def measured(self, rig, title, average, low=None, at="1080p", how=None, passes=None):
        """Passes of a case that scatter by the lab's spread; one look where `how` is told."""
        case_id = f"{title} {at}"
        rng = np.random.default_rng(crc32(f"{rig}{title}{at}{self.seed}".encode()))
        count = 1 if how is not None else passes or self.passes
        offs = rng.normal(0.0, self.spread, count)
        offs -= offs.mean()  # the averages are those that are given
        runs = {}
        for place, off in enumerate(offs, 1):
            figures = TypedFigures(
                average_fps=average * float(np.exp(off)),
                low_1_fps=None if low is None else low * float(np.exp(off)),
                average_how=how or FROM_LOG,
                low_1_how=how or FROM_LOG,
            )
            key = f"{rig}-{case_id}-{place}"
            runs[key] = Run(
                id=key,
                rig_id=rig,
                case_id=case_id,
                repeat=place,
                origin=Origin(kind="typed"),
                typed=figures,
                decision=Decision.KEEP,
            )
        self._case(title, at, runs)
        return self

    def failed(self, rig, title, why, at="1080p"):
        run = Run(
            id=f"{rig}-{title}-{at}-x",
            rig_id=rig,
            case_id=f"{title} {at}",
            origin=Origin(kind="typed"),
            typed=None,
            outcome=why,
        )
        self._case(title, at, {run.id: run})
        return self

    def scored(self, rig, test, score):
        run = Run(
            id=f"{rig}-{test}-s",
            rig_id=rig,
            case_id=f"{test} -",
            origin=Origin(kind="typed"),
            typed=TypedFigures(score=score),
        )
        title = Title(id=test, name=test, kind="synthetic")
        case = Case(id=f"{test} -", title_id=test)
        self.contents = self.contents.with_records(
            {"titles": {test: title}, "cases": {case.id: case}, "runs": {run.id: run}}
        )
        return self

    def _case(self, title, at, runs):
        case = Case(id=f"{title} {at}", title_id=title, resolution=at)
        self.contents = self.contents.with_records(
            {
                "titles": {title: Title(id=title, name=title)},
                "cases": {case.id: case},
                "runs": runs,
            }
        )

    @property
    def claims(self):
        review = Review(
            id="v", name="V", seats=tuple(self.seats), case_ids=tuple(self.contents.cases)
        )
        contents = replace(self.contents, reviews={"v": review})
        return claims_on(contents, build_board(contents, review))

    def sentences(self, question):
        claims = self.claims
        return [
            speak(one, claims.board.columns).computed.replace("\u202f", " ")
            for one in claims.all()
            if one.question == question
        ]

    def headline(self, rig=None):
        return board_headline(self.claims, rig).replace("\u202f", " ")


def eye(looks=()):
    return HowRead(kind=Kind.EYE, looks=looks)


AT_LEAST = HowRead(kind=Kind.AT_LEAST)
