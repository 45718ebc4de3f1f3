"""Say true and false sentences about reviews made up here, and count how well they are told apart.

Rigs, titles and rates are drawn by chance, the truth is worked out here from the rates alone, and
the sentences are put together from phrasings of their own: none of it shares code, names or
wording with `core/script` or its tests.
"""

import sys
from collections import Counter
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests" / "core" / "claims"))

from lab import BASE, LINKS, REFERENCE, Lab

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.records.records import Review
from blunt_ruler.core.script.check import Checker
from blunt_ruler.core.script.statements import Answer
from figures import rate

REVIEWS, SAID, SEED = 15, 60, 4200
SYLLABLES = (
    "ker",
    "ol",
    "tan",
    "vi",
    "dra",
    "mor",
    "sel",
    "pun",
    "ig",
    "wes",
    "hal",
    "bru",
    "nock",
    "fen",
)
SCENES = (
    "Harrow",
    "Lichen",
    "Dusk",
    "Ember",
    "Vault",
    "Thorn",
    "Pelican",
    "Saltmarsh",
    "Ivory",
    "Gable",
)
SECOND = ("Run", "Keep", "Racers", "Falls", "Fleet", "Protocol", "Gardens", "")
CABLES = {
    "40 Gb/s cable": (3, 4),
    "OCuLink cord": (4, 4),
    "M.2 adapter": (3, 4),
    "x8 edge": (4, 8),
    "x16 slot": (4, 16),
}
LINKS.update(CABLES)


@dataclass(frozen=True)
class Fact:
    """Something true of a review: of which kind, of whom, over what, and how much."""

    kind: str
    rig: str
    base: str
    metric: str
    title: str
    size: str
    ratio: float = 1.0
    value: float = 0.0


class World:
    """A review with rates that are known."""

    def __init__(self, rng: np.random.Generator, spoken: bool = False) -> None:
        self.rng, self.spoken = rng, spoken

        used: set[str] = set()

        def word() -> str:
            while True:
                made = "".join(rng.choice(SYLLABLES, 2, replace=False)).capitalize()
                if made not in used:
                    used.add(made)
                    return made

        card = f"{word()} {rng.integers(4, 30)}"
        host, tower = f"{word()} {rng.integers(2, 99)}", f"{word()} tower"
        self.lab = Lab(spread=0.003, seed=int(rng.integers(1e6)))
        self.base = f"Built-in {word()} {rng.integers(2, 9)}"
        self.lab.rig(self.base, BASE, f"iGPU {self.base[9:]}", host, built_in=True)
        self.called = {
            self.base: ("the built-in graphics", "the integrated graphics", "the iGPU", self.base)
        }
        links = [*rng.permutation([one for one in CABLES if one != "x16 slot"])][
            : int(rng.integers(1, 4))
        ]
        self.speed = {self.base: float(rng.uniform(12, 40))}
        self.tested = []
        for place, link in enumerate(links):
            name = f"{word()} {card}"
            self.lab.rig(name, card=card, host=host, link=str(link))
            self.tested.append(name)
            short = name.split()[0]
            self.called[name] = (
                name,
                f"the {short}",
                short,
                f"the {link}",
                f"the {card} on the {link}",
            )
            self.speed[name] = float(rng.uniform(60, 110)) * (1 - 0.12 * place)
        self.reference = f"{tower.capitalize()} {card}"
        self.lab.rig(self.reference, REFERENCE, card, tower, "x16 slot")
        self.called[self.reference] = (
            "the tower",
            self.reference,
            "the desktop",
            f"the {card} in the tower",
        )
        self.speed[self.reference] = float(rng.uniform(115, 160))
        names = [
            f"{a} {b}".strip()
            for a, b in zip(
                rng.permutation(SCENES), rng.permutation([*SECOND, "", ""]), strict=True
            )
        ]
        self.titles = names[: int(rng.integers(3, 8))]
        self.sizes = ["1080p", "1440p", "2160p"][: int(rng.integers(1, 4))]
        self.rates = {}
        for rig, speed in self.speed.items():
            for title in self.titles:
                heavy = 0.4 + 1.8 * (hash_of(title) % 100) / 100
                for place, size in enumerate(self.sizes):
                    link = (
                        0.0 if rig in (self.base, self.reference) else float(rng.uniform(0.0, 0.25))
                    )
                    average = (
                        speed
                        * heavy
                        * 0.68**place
                        * (1 - link / (1 + place))
                        * float(rng.uniform(0.93, 1.07))
                    )
                    low = average * float(rng.uniform(0.6, 0.88))
                    self.rates[rig, title, size, "average"] = average
                    self.rates[rig, title, size, "low"] = low
                    self.lab.measured(rig, title, average, low, size)
        review = Review(
            id="v", name="V", seats=tuple(self.lab.seats), case_ids=tuple(self.lab.contents.cases)
        )
        contents = replace(self.lab.contents, reviews={"v": review})
        self.checker = Checker(analyse(contents, review))

    def ratio(self, rig: str, base: str, metric: str, title: str = "", size: str = "") -> float:
        """Geometric mean of the ratios of all cases of a scope, from the rates alone."""
        logs = [
            np.log(self.rates[rig, t, s, metric] / self.rates[base, t, s, metric])
            for t in self.titles
            if title in ("", t)
            for s in self.sizes
            if size in ("", s)
        ]
        return float(np.exp(np.mean(logs)))

    def fact(self, kind: str) -> Fact:
        """Something of a kind, drawn by chance."""
        rng = self.rng
        rig = str(rng.choice(self.tested))
        other = [self.base, self.reference, *(one for one in self.tested if one != rig)]
        base = str(rng.choice(other[:2] if rng.uniform() < 0.8 else other))
        title = (
            str(rng.choice(["", *self.titles])) if kind != "rate" else str(rng.choice(self.titles))
        )
        size = (
            str(rng.choice(self.sizes))
            if len(self.sizes) > 1 and (title or rng.uniform() < 0.2)
            else ""
        )
        metric = "low" if rng.uniform() < 0.3 else "average"
        if kind == "rate":
            who = str(rng.choice([*self.tested, self.base, self.reference]))
            place = size or self.sizes[0]
            return Fact(
                kind, who, "", metric, title, place, value=self.rates[who, title, place, metric]
            )
        found = self.ratio(rig, base, metric, title, size)
        return Fact(kind, rig, base, metric, title, size, found)


def hash_of(words: str) -> int:
    """The same number for the same words in every run."""
    return sum((place + 3) * ord(letter) for place, letter in enumerate(words))


MORE = (
    "{S} is {p} quicker than {B}{in}",
    "{S} puts {p} on top of {B}{in}",
    "{in_}{S} outruns {B} by {p}",
    "Going from {B} to {S} adds {p}{in}",
    "{in_}you gain {p} by moving from {B} to {S}",
    "{S} comes out {p} ahead of {B}{in}",
    "{in_}{S} delivers {p} more frames than {B}",
    "{S} shows an uplift of {p} over {B}{in}",
    "We saw {S} lead {B} by {p}{in}",
    "{in_}there is a {p} gain with {S} over {B}",
)
LESS = (
    "{S} gives away {p} to {B}{in}",
    "{S} sits {p} below {B}{in}",
    "{in_}{S} is {p} behind {B}",
    "{in_}{p} of the frames go missing on {S} compared with {B}",
    "{S} comes in {p} short of {B}{in}",
    "{in_}we lost {p} with {S} against {B}",
    "The penalty of {S} against {B} is {p}{in}",
    "{in_}{S} runs {p} slower than {B}",
    "{S} costs you {p} against {B}{in}",
    "{in_}{S} falls {p} short of what {B} does",
)
KEPT = (
    "{S} hangs on to {p} of what {B} does{in}",
    "{in_}{S} gets {p} of the frame rate of {B}",
    "{S} manages {p} of {B}'s speed{in}",
    "{in_}what {S} keeps of {B} is {p}",
    "{in_}{S} still has {p} of the performance of {B}",
)
TIMES = (
    "{S} runs at {x} times the frame rate of {B}{in}",
    "{in_}{S} is {x} times as quick as {B}",
    "{in_}{S} gives {x}x the frames of {B}",
    "{S} makes {x} times the speed of {B}{in}",
)
RATE = (
    "{S} posts {r} fps{in}",
    "{in_}{S} hovers at {r} frames per second",
    "I measured {r} fps on {S}{in}",
    "{in_}we got {r} fps from {S}",
    "{in_}the counter says {r} fps on {S}",
    "{S} sits at {r} fps{in}",
    "{in_}{S} comes to {r} frames a second",
)
OF_LOWS = {
    "more": (
        "The 1% lows of {S} are {p} higher than those of {B}{in}",
        "{in_}the lows of {S} gain {p} over {B}",
        "{in_}{S} has 1% lows {p} better than {B}",
    ),
    "less": (
        "The 1% lows of {S} are {p} lower than those of {B}{in}",
        "{in_}the lows of {S} lose {p} to {B}",
        "{in_}{S} has 1% lows {p} worse than {B}",
    ),
    "kept": (
        "{S} keeps {p} of the 1% lows of {B}{in}",
        "{in_}the 1% low of {S} is {p} of that of {B}",
    ),
    "times": (
        "The 1% lows of {S} are {x} times those of {B}{in}",
        "{in_}{S} has {x} times the 1% low of {B}",
    ),
    "rate": (
        "{S} has a 1% low of {r} fps{in}",
        "{in_}the lows on {S} are {r} fps",
        "{in_}I saw lows of {r} fps on {S}",
    ),
}
SPOKEN = {  # as people talk: two sentences, pronouns, words for numbers, no order
    "more": (
        "Right, {S}. Up against {B} it's {p} faster{in}",
        "So how does {S} do? It beats {B} by {p}{in}",
        "{in_}{B} isn't even close: {S} is {p} faster",
        "Here's {S}. Over {B} you're looking at {p} more performance{in}",
        "{in_}{S} wins by {p} over {B}",
        "{S} is up next, and it's {p} better than {B}{in}",
        "If you come from {B}, {S} feels quick. It's {p} faster{in} than {B}",
    ),
    "less": (
        "Now {S}. It's {p} down on {B}{in}",
        "Here's the catch with {S}. You lose {p} compared to {B}{in}",
        "{in_}{B} stays ahead and {S} is {p} slower",
        "And {S}? {in_}it drops {p} versus {B}",
        "{S} isn't free. It gives up {p} to {B}{in}",
        "{in_}that's a {p} hit for {S} relative to {B}",
    ),
    "kept": (
        "What about {S}? It holds on to {p} of {B}'s performance{in}",
        "{in_}{S} is good for {p} of what {B} manages",
        "{S} next. {in_}it retains {p} of the speed of {B}",
    ),
    "times": (
        "{S} next. {in_}it's {x} times faster than {B}",
        "{in_}{S} is a solid {x} times as fast as {B}",
        "And with {S} we get {x} times the performance of {B}{in}",
    ),
    "rate": (
        "{in_}{S} gets us {r} fps",
        "Let's look at {S}. {in_}it's running at {r} fps",
        "{in_}{r} frames per second with {S}",
        "{S} is next. It manages {r} fps{in}",
        "{in_}{S}: {r} fps",
    ),
}
SPOKEN_LOWS = {
    "more": (
        "{S}: the 1% lows climb by {p} over {B}{in}",
        "{in_}the lows on {S} are up {p} on {B}",
    ),
    "less": (
        "{S} again. Its lows are {p} behind {B}{in}",
        "{in_}{S} drops {p} in the 1% lows against {B}",
    ),
    "kept": ("{in_}{S} retains {p} of the lows of {B}",),
    "times": ("{in_}the lows of {S} are {x} times as high as on {B}",),
    "rate": ("Let's look at {S}. {in_}its lows are {r} fps", "{in_}{S} shows 1% lows of {r} fps"),
}
PHRASES = {"more": MORE, "less": LESS, "kept": KEPT, "times": TIMES, "rate": RATE}
PERCENT = ("{} %", "{}%", "{} per cent", "{} percent")


def value_of(fact: Fact, kind: str) -> float:
    """A fact as the number that is said."""
    return {
        "more": 100 * (fact.ratio - 1),
        "less": 100 * (1 - fact.ratio),
        "kept": 100 * fact.ratio,
        "times": fact.ratio,
        "rate": fact.value,
    }[kind]


def worded(world: World, fact: Fact, kind: str, value: float) -> str:
    """A sentence that says a value of a fact."""
    rng = world.rng
    phrases = OF_LOWS[kind] if fact.metric == "low" else PHRASES[kind]
    if world.spoken:
        phrases = SPOKEN_LOWS[kind] if fact.metric == "low" else SPOKEN[kind]
    if fact.metric == "average" and kind == "rate" and not world.spoken and rng.uniform() < 0.3:
        phrases = ("{S} averages {r} fps{in}", "{in_}the average of {S} is {r} fps")
    title, size = fact.title, fact.size
    where = f" in {title}" if title else ""
    if size:
        where += f" at {'4K' if size == '2160p' and rng.uniform() < 0.5 else size}"
    if not title and not size and rng.uniform() < 0.5:
        where = " on average"
    names = [str(rng.choice(world.called[one])) if one else "" for one in (fact.rig, fact.base)]
    p = str(rng.choice(PERCENT)).format(f"{value:.0f}")
    if world.spoken and rng.uniform() < 0.4 and round(value) < 100:
        p = f"{in_words(round(value))} per cent"
    said = str(rng.choice(phrases))
    words = said.replace("{in_}", f"{where.strip()}, " if where else "").replace("{in}", where)
    words = words.replace("{S}", names[0]).replace("{B}", names[1]).replace("{p}", p)
    words = words.replace("{x}", f"{value:.1f}").replace("{r}", f"{value:.0f}")
    return f"{words[:1].upper()}{words[1:]}."


ONES = (
    "zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine",
    "ten", "eleven", "twelve", "thirteen", "fourteen", "fifteen", "sixteen", "seventeen",
    "eighteen", "nineteen",
)  # fmt: skip
TENS = ["_", "_", "twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety"]


def in_words(number: int) -> str:
    """A number under a hundred in words."""
    if number < 20:
        return ONES[number]
    return TENS[number // 10] + (f"-{ONES[number % 10]}" if number % 10 else "")


def fits_kind(fact: Fact, kind: str) -> bool:
    """Whether one would say a fact in this way, and clearly."""
    ratio = fact.ratio
    return {
        "more": ratio > 1.06,
        "less": ratio < 0.94,
        "kept": ratio < 0.94,
        "times": ratio > 1.35,
        "rate": True,
    }[kind]


def slips(world: World, fact: Fact, kind: str) -> dict[str, float]:
    """Values that would be said by mistake, by the mistake."""
    found: dict[str, float] = {}
    true = value_of(fact, kind)
    other = "low" if fact.metric == "average" else "average"
    if kind in ("more", "less", "kept", "times"):

        def of(**by: str) -> float:
            given = {
                "rig": fact.rig,
                "base": fact.base,
                "metric": fact.metric,
                "title": fact.title,
                "size": fact.size,
            } | by
            return value_of(replace(fact, ratio=world.ratio(**given)), kind)

        if kind == "less":
            found["lead told as loss"] = 100 * (1 / fact.ratio - 1)
        if kind == "more":
            found["loss told as lead"] = 100 * (1 - 1 / fact.ratio)
            found["times told as per cent"] = 100 * fact.ratio
        if kind in ("less", "kept"):
            found["kept for lost"] = 100 - true
        found["average and low"] = of(metric=other)
        if fact.title:
            found["mean told of one title"] = of(title="", size="")
        sizes = [one for one in world.sizes if one != fact.size]
        if fact.size and sizes:
            found["other resolution"] = of(size=sizes[0])
        rigs = [one for one in world.tested if one not in (fact.rig, fact.base)]
        if rigs:
            found["other rig"] = of(rig=rigs[0])
        found["off by a few"] = true + world.rng.choice([-4, -3, 3, 4]) * (
            0.1 if kind == "times" else 1
        )
    else:
        found["average and low"] = world.rates[fact.rig, fact.title, fact.size, other]
        sizes = [one for one in world.sizes if one != fact.size]
        if sizes:
            found["other resolution"] = world.rates[fact.rig, fact.title, sizes[-1], fact.metric]
        rigs = [one for one in world.speed if one != fact.rig]
        found["other rig"] = world.rates[
            str(world.rng.choice(rigs)), fact.title, fact.size, fact.metric
        ]
        found["off by a few"] = true * float(world.rng.choice([0.92, 0.95, 1.06, 1.09]))
    return found


def judged(world: World, words: str) -> tuple[str, list]:
    """(how a sentence stands as a whole, its statements)."""
    held = world.checker.check(words)
    answers = [one.answer for one in held]
    if not answers:
        return "silent", held
    for answer in (Answer.FAILS, Answer.UNCLEAR, Answer.UNKNOWN):
        if answer in answers:
            return str(answer), held
    return str(Answer.HOLDS), held


def main() -> None:
    """Written and spoken phrasings, each over reviews of their own."""
    count("scripts, written:", False)
    count("scripts, spoken:", True)


def count(name: str, spoken: bool, reviews: int = REVIEWS, seed: int = SEED, show: int = 0) -> None:
    """Count, over reviews made up here, what becomes of true sentences and of slips."""
    rng = np.random.default_rng(seed)
    true_of: Counter[str] = Counter()
    slip_of: dict[str, Counter[str]] = {}
    shown = 0
    for _ in range(reviews):
        world = World(rng, spoken)
        for _ in range(SAID):
            kind = str(rng.choice(["more", "less", "kept", "times", "rate"]))
            fact = world.fact(kind)
            if not fits_kind(fact, kind):
                continue
            true = value_of(fact, kind)
            words = worded(world, fact, kind, true)
            answer, held = judged(world, words)
            true_of[answer] += 1
            if answer != Answer.HOLDS and shown < show:
                shown += 1
                print(
                    "TRUE",
                    answer,
                    "|",
                    words,
                    "|",
                    [(h.text, h.rig, h.base, h.figure, h.note, h.true_sentence) for h in held],
                )
            for slip, value in slips(world, fact, kind).items():
                if value <= 0 or abs(value - true) < (0.16 if kind == "times" else 1.6):
                    continue
                words = worded(world, fact, kind, value)
                answer, held = judged(world, words)
                wrong = [one for one in held if one.answer is Answer.FAILS]
                right = any(
                    one.value is not None
                    and abs(_as_said(one.value, kind) - true) < (0.06 if kind == "times" else 0.6)
                    for one in wrong
                )
                outcome = (
                    answer if answer != Answer.FAILS else "found" if right else "found, other truth"
                )
                slip_of.setdefault(slip, Counter())[outcome] += 1
                if outcome != "found" and shown < show:
                    shown += 1
                    print(
                        slip.upper(),
                        outcome,
                        f"(true {true:.2f})",
                        "|",
                        words,
                        "|",
                        [(h.text, h.rig, h.base, h.value, h.note, h.true_sentence) for h in held],
                    )
    total = true_of.total()
    slips_total = sum(slip_of.values(), Counter())
    if show:
        print(true_of)
        for slip, counts in slip_of.items():
            print(f"{slip:<26}", dict(counts))
    rate(f"{name} true sentences said not to hold", true_of[str(Answer.FAILS)], total, most=1.0)
    rate(f"{name} true sentences that hold", true_of[str(Answer.HOLDS)], total, least=95.0)
    rate(
        f"{name} slips found with the right truth",
        slips_total["found"],
        slips_total.total(),
        least=95.0,
    )
    rate(
        f"{name} slips said to hold", slips_total[str(Answer.HOLDS)], slips_total.total(), most=0.5
    )


def _as_said(value: float, kind: str) -> float:
    return 100 * value if kind in ("more", "less", "kept") else value


if __name__ == "__main__":
    main()
