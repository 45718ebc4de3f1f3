"""What a review rests on, as the records of a logbook of its own."""

from collections.abc import Iterator

from blunt_ruler.core.records.bench_notes import Change
from blunt_ruler.core.records.records import Contents, Record, Review


def records_of(contents: Contents, review: Review) -> tuple[Record, ...]:
    """Everything a review rests on: its rigs and their parts, its cases, all runs of its cells.

    A rig it is set against comes along with its runs. Other reviews stay behind, and so do the
    commands that start the titles: nobody else's computer is to run them.
    """
    rig_ids = list(dict.fromkeys([*(seat.rig_id for seat in review.seats), review.worth.against]))
    rigs = [contents.rigs[key] for key in rig_ids if key is not None and key in contents.rigs]
    kept = {rig.id for rig in rigs}
    cases = [contents.cases[key] for key in review.case_ids]
    title_ids = dict.fromkeys(case.title_id for case in cases)
    hosts = dict.fromkeys(rig.host_id for rig in rigs if rig.host_id)
    built_in = [contents.hosts[key].built_in_card_id for key in hosts]
    cards = dict.fromkeys([*(rig.card_id for rig in rigs), *built_in])
    docks = dict.fromkeys(rig.dock_id for rig in rigs)
    links = dict.fromkeys(rig.link_id for rig in rigs)
    parts = {*hosts, *cards, *docks, *links}
    runs = [
        run
        for run in contents.runs.values()
        if run.rig_id in kept and run.case_id in set(review.case_ids)
    ]
    plan = contents.plans.get(review.id)
    return (
        *(contents.hosts[key] for key in hosts),
        *(contents.cards[key] for key in cards if key),
        *(contents.docks[key] for key in docks if key),
        *(contents.links[key] for key in links if key),
        *rigs,
        *(contents.titles[key].model_copy(update={"start_command": ""}) for key in title_ids),
        *cases,
        *runs,
        review,
        *(tick for tick in contents.ticks.values() if tick.rig_id in kept),
        *((plan,) if plan else ()),
        *(price for price in contents.prices.values() if price.id in parts or price.rig_id in kept),
        *(one for one in contents.readings.values() if one.rig_id in kept),
        *_changes(contents, kept),
        *contents.own_steps.values(),
        *(one for one in contents.diary.values() if one.rig_id in kept),
        *contents.alternatives.values(),
    )


def _changes(contents: Contents, kept: set[str]) -> Iterator[Change]:
    """What changed on the rigs that come along: without it other passes would count there."""
    for one in contents.changes.values():
        rigs = tuple(key for key in one.rig_ids if key in kept)
        if rigs or not one.rig_ids:  # one of other rigs alone must not become one of all
            yield one.model_copy(update={"rig_ids": rigs})
