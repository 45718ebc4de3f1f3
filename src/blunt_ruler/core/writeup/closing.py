"""The last sections of a write-up: what was not tested, cautions, disclosures, corrections."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.records.records import Case, Contents, Decision, Review, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.records.writeup_settings import Disclosure, Terms
from blunt_ruler.core.rigs.cautions import CAUTIONS, DEFER
from blunt_ruler.core.rigs.compatibility import check_fit
from blunt_ruler.core.rigs.preflight import outcomes, steps_for
from blunt_ruler.core.runs.changes import change_lines
from blunt_ruler.core.sentences import Sentence, sentence
from blunt_ruler.core.text import count_text, list_text
from blunt_ruler.core.trouble.diary import stories
from blunt_ruler.core.writeup.corrections import PastEdit
from blunt_ruler.core.writeup.corrections import corrections as corrected
from blunt_ruler.core.writeup.document import Block, Bullets, Paragraph


def for_and_against(analysis: Analysis) -> tuple[Block, ...]:
    """What speaks for and against, in the reviewer's words; nothing where nothing was said."""
    writeup = analysis.review.writeup
    blocks: list[Block] = []
    for key, heading, points in (
        ("for", "For:", writeup.pros),
        ("against", "Against:", writeup.cons),
    ):
        if points:
            blocks.append(Paragraph((sentence(f"for_and_against.{key}", heading),)))
            said = [
                sentence(f"for_and_against.{key}.{place}", f"{one.rstrip('.')}.")
                for place, one in enumerate(points)
            ]
            blocks.append(Bullets(tuple(said)))
    return tuple(blocks)


def points_line(review: Review) -> str:
    """How many points speak for and against."""
    writeup = review.writeup
    if not writeup.pros and not writeup.cons:
        return "Nothing is written for or against yet; the section is left out of the report."
    pros = count_text(len(writeup.pros), "point")
    cons = count_text(len(writeup.cons), "point")
    return f"{pros} for and {cons} against, printed in your words."


def _failed(analysis: Analysis) -> dict[tuple[str, str], Run]:
    """Cells whose kept run says what happened instead of a figure."""
    return {
        key: run
        for key, runs in analysis.board.runs.items()
        for run in runs
        if run.outcome and run.decision is Decision.KEEP
    }


def went_wrong(analysis: Analysis) -> tuple[Block, ...]:
    """What did not run and why, how sleep and unplugging ended, what changed in between."""
    board, contents = analysis.board, analysis.contents
    names = {column.rig_id: column.name for column in board.columns}
    labels = {row.case_id: row.label for row in board.rows}
    said = [
        sentence(
            f"went_wrong.{run.id}",
            f"{labels[case_id]} did not run on {names[rig_id]}: {run.outcome.rstrip('.')}.",
        )
        for (rig_id, case_id), run in _failed(analysis).items()
    ]
    said += [
        sentence(f"went_wrong.{rig_id}.{place}", f"{name}, {words.rstrip('.')}.")
        for rig_id, name in names.items()
        for place, words in enumerate(outcomes(contents, rig_id))
    ]
    said += [
        sentence(f"went_wrong.trouble.{rig_id}.{place}", words)
        for rig_id, name in names.items()
        for place, words in enumerate(stories(contents, rig_id, name))
    ]
    said += [
        sentence(f"went_wrong.change.{place}", f"Changed on {words}")
        for place, words in enumerate(change_lines(contents, names))
    ]
    return (Bullets(tuple(said)),) if said else ()


def not_tested(analysis: Analysis) -> tuple[Block, ...]:
    """Cells without a counted run, runs set aside, and what is open."""
    board, said = analysis.board, []
    failed = _failed(analysis)
    for column in board.columns:
        absent = [
            row
            for row in board.rows
            if (column.rig_id, row.case_id) not in board.cells
            and (column.rig_id, row.case_id) not in failed
        ]
        if absent and len(absent) == len(board.rows):
            words = f"{column.name} has no counted run."
        elif absent:
            words = f"{column.name} was not taken on {list_text([row.label for row in absent])}."
        else:
            continue
        said.append(sentence(f"not_tested.{column.rig_id}", words))
    names = {column.rig_id: column.name for column in board.columns}
    labels = {row.case_id: row.label for row in board.rows}
    said += [
        sentence(
            f"not_tested.run.{run.id}",
            f"Not counted, {run.decision}: pass {run.repeat} of {labels[case_id]} on "
            f"{names[rig_id]}{f' ({run.reason})' if run.reason else ''}.",
        )
        for (rig_id, case_id), runs in board.runs.items()
        for run in runs
        if run.decision is not Decision.KEEP
    ]
    said += [
        sentence(f"not_tested.unwritten.{number}", words)
        for number, words in enumerate(unwritten(analysis))
    ]
    sizes = list(dict.fromkeys(row.resolution for row in board.rows if row.resolution))
    said.append(
        sentence(
            "not_tested.rest",
            f"Nothing here speaks of other titles, of sizes other than {list_text(sizes)}, of "
            "other drivers, or of what play over hours would show."
            if sizes
            else "Nothing here speaks of other titles, sizes or drivers.",
        )
    )
    return (Bullets(tuple(said)),)


# What a missing fact of a case leaves open.
OPEN_QUESTIONS = {
    "method": "whether two passes show the same",
    "graphics_api": "whether another one would change the order",
    "upscaler": "how many pixels were drawn",
    "ray_tracing": "how much of the load it makes",
    "frame_generation": "whether every frame was drawn",
    "frame_cap_fps": "whether a cap held a rate",
}


def unwritten(analysis: Analysis) -> Iterator[str]:
    """Facts of cases and rigs that are not written down, and what each leaves open."""
    contents = analysis.contents
    cases = [contents.cases[row.case_id] for row in analysis.board.rows]
    for field, question in OPEN_QUESTIONS.items():
        missing = sum(not getattr(case, field) for case in cases)
        if missing:
            name = str(Case.model_fields[field].description)
            of = "any case" if missing == len(cases) else count_text(missing, "case")
            yield f"The {name} is not noted for {of}: it leaves open {question}."
    rigs = [contents.rigs[seat.rig_id] for seat in analysis.review.seats]
    bare = [rig.name for rig in rigs if not rig.source and not (rig.host_id and rig.card_id)]
    if bare:
        yield (
            f"Host or card of {list_text(bare)} is not described: it leaves open what took the "
            "frames."
        )
    drivers = [rig.name for rig in rigs if not rig.source and not rig.state.driver]
    if drivers:
        yield (
            f"The driver of {list_text(drivers)} is not noted, so another one could change the "
            "figures."
        )


def cautions(analysis: Analysis) -> tuple[Block, ...]:
    """The usual cautions of the parts used, and what was found against a rig before its runs."""
    contents = analysis.contents
    keys = dict.fromkeys(
        key
        for seat in analysis.review.seats
        for step in steps_for(contents, seat.rig_id)
        for key in step.cautions
    )
    said = [sentence(f"cautions.{key}", CAUTIONS[key].says) for key in CAUTIONS if key in keys]
    found: dict[str, list[str]] = {}
    for seat in analysis.review.seats:
        for one in check_fit(contents, seat.rig_id):
            if one.severity in (Severity.BLOCKING, Severity.CAUTION):
                found.setdefault(one.what, []).append(contents.rigs[seat.rig_id].name)
    said += [
        sentence(f"cautions.fit.{place}", f"{list_text(names)}: {what}")
        for place, (what, names) in enumerate(found.items())
    ]
    said.append(sentence("cautions.defer", DEFER))
    return (Bullets(tuple(said)),)


def disclosures(analysis: Analysis) -> tuple[Block, ...]:
    """Where the tested things came from, and for which of them that is not said."""
    said: list[Sentence] = []
    for place, one in enumerate(analysis.review.writeup.disclosures):
        words = f"{one.what}: {one.terms}"
        if one.by:
            words += f" by {one.by}" if one.terms == "bought" else f" from {one.by}"
        if one.notes:
            words += f"; {one.notes}"
        said.append(sentence(f"disclosures.{place}", f"{words}."))
    things = tested_things(analysis.contents, analysis.review)
    silent = [one.what for one in things if one.is_silent]
    if silent:
        said.append(
            sentence(
                "disclosures.silent",
                f"Where these came from is not stated: {list_text(silent)}.",
            )
        )
    if not said:
        said.append(sentence("disclosures.none", "Everything tested was already owned."))
    return (Bullets(tuple(said)),)


@dataclass(frozen=True, slots=True)
class Tested:
    """A tested thing and what is said of where it came from; nothing for one that is silent."""

    what: str
    disclosure: Disclosure | None
    owned: bool = False
    place: int | None = None  # among the disclosures

    @property
    def is_silent(self) -> bool:
        """Whether nothing says where it came from."""
        return self.disclosure is None and not self.owned


def tested_things(contents: Contents, review: Review) -> tuple[Tested, ...]:
    """Hosts, cards and docks of a review that nothing is disclosed of, then the disclosures."""
    disclosures = review.writeup.disclosures
    told = " ".join(one.what.lower() for one in disclosures)
    parts: dict[str, str] = {}
    for seat in review.seats:
        card = contents.card_of(seat.rig_id)
        for part in (contents.host_of(seat.rig_id), card, contents.dock_of(seat.rig_id)):
            if part is not None and not (part is card and card and card.built_in):
                parts[part.id] = part.name
    untold = [
        Tested(name, None, key in contents.prices and contents.prices[key].owned)
        for key, name in parts.items()
        if name.lower() not in told
    ]
    said = [Tested(one.what, one, False, place) for place, one in enumerate(disclosures)]
    return (*sorted(untold, key=lambda one: one.owned), *said)


def disclosures_line(contents: Contents, review: Review) -> str:
    """Whether a reader can know where each tested thing came from."""
    things = tested_things(contents, review)
    silent = [one.what for one in things if one.is_silent]
    if not things:
        return "No part is described yet: describe hosts, cards and docks on the Bench."
    if not silent:
        lent = [one.what for one in things if one.disclosure and one.disclosure.terms != Terms.OWN]
        if not lent:
            return "Everything tested was already owned."
        return f"Every tested thing says where it came from; not owned: {list_text(lent)}."
    return (
        f"Of {count_text(len(things), 'tested thing')} {len(silent)} do not say where they came "
        f"from: {list_text(silent)}."
    )


def corrections(analysis: Analysis, edits: Sequence[PastEdit]) -> tuple[Block, ...]:
    """What was changed after it was first entered."""
    said = corrected(analysis.contents, analysis.review, edits)
    if not said:
        words = "No figure was changed after it was first entered."
        return (Paragraph((sentence("corrections.none", words),)),)
    start = f"{count_text(len(said), 'change')} after first entry, oldest first:"
    return (Paragraph((sentence("corrections.count", start),)), Bullets(said))
