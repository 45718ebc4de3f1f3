"""Commands that compare rigs and put scores together."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from blunt_ruler.cli.common import (
    BadOption,
    JsonFlag,
    ReviewName,
    app,
    choose,
    print_json,
    read_logbook,
    rig_id,
)
from blunt_ruler.core.analysis.analyse import Analysis, settle
from blunt_ruler.core.board.board import Board, Column, how_of
from blunt_ruler.core.board.lines import bound_words
from blunt_ruler.core.claims.causes import every_claim
from blunt_ruler.core.claims.claim import Claim
from blunt_ruler.core.claims.offer import claims_on, table_claims
from blunt_ruler.core.claims.speak import speak
from blunt_ruler.core.claims.standing import estimate_of
from blunt_ruler.core.compare.comparability import Unsound
from blunt_ruler.core.compare.compare import compare
from blunt_ruler.core.compare.like_for_like import unsound_words
from blunt_ruler.core.compare.results import (
    CaseResult,
    Comparison,
    How,
    Measurement,
    RigMean,
    RigResult,
)
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.measure.kinds import KIND_WORDS, MEAN_WORDS, Bound, Kind, MeanSchool
from blunt_ruler.core.records.records import Contents, Role
from blunt_ruler.core.text import capital, list_text, loss_text, percent_text

if TYPE_CHECKING:
    from blunt_ruler.cli.documents import (
        ClaimDocument,
        Compared,
        ComparedCase,
        ComparedReference,
        ComparedRig,
        ComparedScore,
        Composite,
        Group,
        GroupRig,
        PlayableSetting,
    )

FIRST = 6  # sentences of a question that are printed


@app.command("compare")
def compare_command(
    logbook: Annotated[Path | None, typer.Argument(help="A logbook.")] = None,
    review: ReviewName = None,
    table: Annotated[Path | None, typer.Option(help="A table of results instead.")] = None,
    base: Annotated[str | None, typer.Option(help="Rig that gains are measured from.")] = None,
    reference: Annotated[
        str | None, typer.Option(help="Rig that losses are measured from.")
    ] = None,
    mean: Annotated[MeanSchool | None, typer.Option(help="How cases become one.")] = None,
    school: Annotated[LowSchool | None, typer.Option(help="How lows are computed.")] = None,
    without: Annotated[list[str] | None, typer.Option(help="A case left out of means.")] = None,
    clean_only: Annotated[
        bool | None, typer.Option("--clean-only/--all", help="Only clean pairs, or mixed ones too.")
    ] = None,
    shared: Annotated[
        bool | None,
        typer.Option(
            "--shared/--each", help="Means over the cases all rigs share, or over each rig's own."
        ),
    ] = None,
    playable: Annotated[
        str | None, typer.Option(help="AVG/LOW: the best settings each rig can play.")
    ] = None,
    by: Annotated[
        str | None, typer.Option(help="Means by “resolution”, “title” or “tag” as well.")
    ] = None,
    seed: Annotated[
        int, typer.Option(min=0, hidden=True, help="Of earlier versions; nothing is drawn now.")
    ] = 0,
    margin: Annotated[
        float, typer.Option(help="Differences within this many per cent are called level.")
    ] = 3.0,
    as_json: JsonFlag = False,
) -> None:
    """Gains over a base and losses against a reference."""
    if not 0 < margin < 100:
        raise BadOption(
            "--margin", f"{margin:g} is out of range", "Give a percentage from above 0 to under 100"
        )
    if (logbook is None) == (table is None):
        raise BadOption(
            "LOGBOOK or --table",
            "exactly one of them is needed",
            "Give a logbook, or --table with a CSV file",
        )
    asked = _Asked(base, reference, mean, school, tuple(without or ()), clean_only, shared)
    if table is not None:
        if playable is not None:
            raise BadOption("--playable", "a table has no presets in order", "Give a logbook")
        if by is not None:
            raise BadOption("--by", "a table has no groups", "Give a logbook")
        result, measured = _compare_table(table, asked)
        lows = "as given in the table"
        label: Callable[[str], str] = str
        value = comparison_value(result, lows, label)
        claims = table_claims(result, measured, margin / 100.0)
        value["claims"] = [_claim(one, claims.board.columns) for one in claims.all()]
    else:
        assert logbook is not None
        analysis = _analysis_of(logbook, review, asked)
        contents, board = analysis.contents, analysis.board
        unsound = unsound_words(analysis.checked, analysis.handover)
        lows = str(board.review.low_school)
        empty = Comparison(board.review.rig_in(Role.BASE) or "", None, board.review.low_school,
                           how_of(board.review), ())  # fmt: skip
        result = board.comparison or empty  # scores alone have no rates to compare

        def named(key: str) -> str:
            return contents.rigs[key].name if key in contents.rigs else contents.case_label(key)

        label = named
        value = comparison_value(result, lows, label)
        claims = claims_on(contents, board, unsound, margin / 100.0)
        told = every_claim(claims, analysis.limits, analysis.worth)
        value["claims"] = [_claim(one, board.columns) for one in told]
        if playable is not None:
            value["playable"] = _playable(contents, board, playable)
        value["references"] = _references(contents, unsound, board)
        value["scores"] = _scores(contents, board)
        value["groups"] = [] if by is None else _groups(contents, unsound, board, by)
    if as_json:
        print_json(value)
        return
    for sentence in _best(value.get("claims", ())):
        print(sentence)
    print(f"{capital(MEAN_WORDS[result.how.mean])} over shared cases; 1% lows: {lows}")
    for rig in value["rigs"]:
        said = f"{rig['rig']}: gain {_bound_words(rig['mean_gain_bound'])}"
        said += percent_text(rig["mean_gain"], signed=True)
        said += f" over {value['base']}"
        if value["reference"] is not None:
            lost = _bound_words(rig["mean_loss_bound"], turned=True)
            said += f", change {lost}{loss_text(rig['mean_loss'])} against {value['reference']}"
        if rig["kinds"] not in ([], [str(Kind.LOG)]):
            said += f"; read: {list_text([KIND_WORDS[Kind(kind)] for kind in rig['kinds']])}"
        if rig["bounds_left_out"]:
            said += f"; without bounds that say nothing: {list_text(rig['bounds_left_out'])}"
        print(said)
    for held in value.get("references", ()) if len(value.get("references", ())) > 1 else ():
        if held["change"] is not None:
            print(f"{held['rig']} against {held['reference']}: {held['says']}")
    for group in value.get("groups", ()):
        for one in group["rigs"]:
            print(f"{group['over']}, {one['rig']}: gain {percent_text(one['gain'], signed=True)}")
    for score in value.get("scores", ()):
        gained = "" if score["gain"] is None else f", {percent_text(score['gain'], signed=True)}"
        print(f"{score['test']}, {score['rig']}: {score['score']:g} {score['unit']}{gained}")
    for best in value.get("playable", ()):
        said = best["settings"] or "not playable at any tested setting"
        print(f"{best['rig']}, {best['title']}: {said}")


def _best(claims: "Sequence[ClaimDocument]") -> list[str]:
    """The first sentences of each question; JSON has all."""
    found: dict[str, list[str]] = {}
    for one in claims:
        found.setdefault(one["question"], []).append(one["sentence"])
    return [said for of_question in found.values() for said in of_question[:FIRST]]


def _bound_words(bound: str | None, *, turned: bool = False) -> str:
    """ "at least " before a figure that is a bound; `turned` where the figure is shown negated."""
    said = Bound(bound) if bound else Bound.POINT
    return bound_words(said.turned() if turned else said)


def comparison_value(result: Comparison, lows: str, label: Callable[[str], str]) -> "Compared":
    """A comparison as JSON has it: gains and losses as fractions, bounds at 95 %."""
    return {
        "low_school": lows,
        "mean": result.mean,
        "base": label(result.base),
        "reference": label(result.reference) if result.reference else None,
        "clean_only": result.how.clean_only,
        "shared_cases": result.how.shared,
        "seed": 0,  # of earlier versions: nothing is drawn now
        "rigs": [_rig_value(rig, label) for rig in result.rigs],
    }


def _rig_value(rig: RigResult, label: Callable[[str], str]) -> "ComparedRig":
    over, of = rig.over_base, rig.of_reference
    gain_low, gain_high, gain_bound = _bounds(over, 1)
    loss_low, loss_high, loss_bound = _bounds(of, -1)
    other_gain, other_loss = _other_titles(over, 1), _other_titles(of, -1)
    moved = over is not None and over.case_moved is not None and over.ratio_without is not None
    return {
        "rig": label(rig.rig),
        "mean_gain": rig.mean_gain,
        "mean_gain_low": gain_low,
        "mean_gain_high": gain_high,
        "mean_gain_other_low": other_gain[0],
        "mean_gain_other_high": other_gain[1],
        "mean_gain_bound": gain_bound,
        "mean_loss": rig.mean_loss,
        "mean_loss_low": loss_low,
        "mean_loss_high": loss_high,
        "mean_loss_other_low": other_loss[0],
        "mean_loss_other_high": other_loss[1],
        "mean_loss_bound": loss_bound,
        "kinds": _kinds(over or of),
        "bounds_left_out": _labels(over.bounds_out if over else (), label),
        "gain_cases": rig.gain_cases,
        "loss_cases": rig.loss_cases,
        "gain_cases_missing": _labels(over.missing if over else (), label),
        "loss_cases_missing": _labels(of.missing if of else (), label),
        "moved_most_by": label(over.case_moved or "") if over and moved else None,
        "mean_gain_without_it": (over.ratio_without or 0.0) - 1.0 if over and moved else None,
        "cases": [_case_value(case, label) for case in rig.cases],
    }


def _bounds(mean: RigMean | None, sign: int) -> tuple[float | None, float | None, str | None]:
    """The interval of a mean gain (`sign` 1) or loss (−1) over these very titles, and what kind of
    bound the mean is.
    """
    if mean is None:
        return None, None, None
    bound = mean.bound if sign > 0 else mean.bound.turned()
    return (*_turned(*mean.these, sign), str(bound))


def _other_titles(mean: RigMean | None, sign: int) -> tuple[float | None, float | None]:
    """The interval that other titles like these could give; none under six titles."""
    if mean is None:
        return None, None
    found = estimate_of(mean)
    return _turned(found.like_low, found.like_high, sign)


def _turned(
    least: float | None, most: float | None, sign: int
) -> tuple[float | None, float | None]:
    """The ends of a ratio as a gain (`sign` 1) or a loss (−1), the lower first."""
    low, high = (None if end is None else sign * (end - 1.0) for end in (least, most))
    return (low, high) if sign > 0 else (high, low)


def _kinds(mean: RigMean | None) -> list[str]:
    """How the figures behind a mean were read, the surest first."""
    return [] if mean is None else [str(kind) for kind in Kind if kind in mean.kinds]


def _labels(case_ids: Sequence[str], label: Callable[[str], str]) -> list[str]:
    return [label(case) for case in case_ids]


def _case_value(case: CaseResult, label: Callable[[str], str]) -> "ComparedCase":
    return {
        "case": label(case.case),
        "runs": case.runs,
        "kind": str(case.kind),
        "bound": str(case.bound),
        "average_fps": case.average_fps,
        "average_low_95": case.rate_low,
        "average_high_95": case.rate_high,
        "low_1_fps": case.low_1_fps,
        "gain_bound": str(case.over_bound),
        "loss_bound": str(case.of_bound.turned()),
        "gain": case.gain,
        "gain_low": case.gain_low,
        "gain_high": case.gain_high,
        "loss": case.loss,
        "loss_low": case.loss_low,
        "loss_high": case.loss_high,
        "standing": str(case.standing.worst),
        "differs": list(case.standing.differs),
        "tie": case.tie,
        "runs_needed": case.runs_needed,
    }


@dataclass(frozen=True, slots=True)
class _Asked:
    """What a comparison was asked for; None leaves it to the review."""

    base: str | None
    reference: str | None
    mean: MeanSchool | None
    school: LowSchool | None
    without: tuple[str, ...]
    clean_only: bool | None
    shared: bool | None


def _compare_table(table: Path, asked: _Asked) -> tuple[Comparison, Sequence[Measurement]]:
    from blunt_ruler.core.compare.capped_rates import held_standings
    from blunt_ruler.exchange.tables.results import read_results

    if asked.base is None:
        raise BadOption("--base", "a table does not say which rig is the base", "Name it")
    if asked.school is not None:
        raise BadOption("--school", "a table's lows are as given", "Leave the option out")
    runs = read_results(table)
    cases = {run.case for run in runs}
    out = {_case_named(cases, name) for name in asked.without}
    how = How(
        mean=asked.mean or MeanSchool.GEOMETRIC,
        without=frozenset(out),
        clean_only=asked.clean_only is not False,
        shared=asked.shared is not False,
    )
    held = held_standings(runs, asked.base, asked.reference)
    result = compare(runs, asked.base, asked.reference, how=how, standings=held)
    return result, runs


def _case_named(cases: set[str], name: str) -> str:
    found = [case for case in cases if case.lower() == name.lower()]
    found = found or [case for case in cases if case.lower().startswith(f"{name.lower()} /")]
    if len(found) != 1:
        raise BadOption(
            "--without",
            f"“{name}” names {len(found)} cases",
            f"Write one of: {'; '.join(sorted(cases)[:8])}",
        )
    return found[0]


def _analysis_of(logbook: Path, review_name: str | None, asked: _Asked) -> Analysis:
    contents, review = read_logbook(logbook, review_name)
    for name, role in ((asked.base, Role.BASE), (asked.reference, Role.REFERENCE)):
        if name is not None:
            review = review.with_role(rig_id(contents, review, name), role)
    wanted = {
        "mean": asked.mean,
        "low_school": asked.school,
        "clean_only": asked.clean_only,
        "shared_cases": asked.shared,
    }
    review = review.model_copy(update={k: v for k, v in wanted.items() if v is not None})
    labels = {contents.case_label(case_id): case_id for case_id in review.case_ids}
    for name in asked.without:
        review = review.with_case_left_out(labels[_case_named(set(labels), name)], "asked for")
    found = settle(contents, review)
    board = found.board
    if board.comparison is None and not found.claims.subjects:
        raise BadOption(
            "--base",
            "no rig with kept runs is the base of this review",
            f"Name one of {', '.join(column.name for column in board.columns)}",
        )
    return found


def _claim(one: Claim, columns: Sequence[Column]) -> "ClaimDocument":
    """A claim with its sentence."""
    value, counts = one.value, one.counts

    def change(ratio: float | None) -> float | None:
        return None if ratio is None else ratio - 1.0

    return {
        "kind": str(one.kind),
        "question": str(one.question),
        "subject": one.subject.name,
        "against": one.against.name if one.against else None,
        "metric": str(one.metric),
        "scope": one.scope.words,
        "titles": list(one.scope.titles),
        "value": change(value.ratio if value else None),
        "these_low": change(value.low if value else None),
        "these_high": change(value.high if value else None),
        "like_low": change(value.like_low if value else None),
        "like_high": change(value.like_high if value else None),
        "bound": str(one.bound),
        "standing": str(one.standing),
        "counts": None
        if counts is None
        else {
            "clearly_ahead": counts.clearly_ahead,
            "ahead": counts.ahead,
            "level": counts.level,
            "behind": counts.behind,
            "clearly_behind": counts.clearly_behind,
            "open": counts.open,
        },
        "margin": one.margin,
        "parts": [
            {
                "name": part.name,
                "of": part.of,
                "value": part.value,
                "standing": str(part.standing),
                "bound": str(part.bound),
            }
            for part in one.parts
        ],
        "caveats": list(one.caveats),
        "sentence": speak(one, columns).computed,
    }


def _groups(contents: Contents, unsound: Unsound, board: Board, by: str) -> "list[Group]":
    """Means over the cases of each resolution, title or tag."""
    from blunt_ruler.core.board.groups import group_means
    from blunt_ruler.core.board.row_order import GroupBy

    kinds = {str(one): one for one in (GroupBy.RESOLUTION, GroupBy.TITLE, GroupBy.TAG)}
    found = group_means(contents, board, unsound, choose(kinds, "--by", by))
    return [
        {
            "over": words,
            "rigs": [
                _group_rig(contents.rigs[rig_id].name, total) for rig_id, total in totals.items()
            ],
        }
        for words, (_, totals) in found.items()
    ]


def _group_rig(name: str, total: RigResult) -> "GroupRig":
    gain_low, gain_high, gain_bound = _bounds(total.over_base, 1)
    loss_low, loss_high, loss_bound = _bounds(total.of_reference, -1)
    return {
        "rig": name,
        "gain": total.mean_gain,
        "gain_low": gain_low,
        "gain_high": gain_high,
        "gain_bound": gain_bound,
        "loss": total.mean_loss,
        "loss_low": loss_low,
        "loss_high": loss_high,
        "loss_bound": loss_bound,
        "cases": total.gain_cases,
    }


def _references(contents: Contents, unsound: Unsound, board: Board) -> "list[ComparedReference]":
    """Every rig against every reference, measured or published."""
    from blunt_ruler.core.board.references import change_text, hold_against

    return [
        {
            "rig": one.rig.name,
            "reference": one.reference.name,
            "published_by": one.reference.source or None,
            "change": one.change,
            "low": _bounds(one.mean, 1)[0],
            "high": _bounds(one.mean, 1)[1],
            "cases": 0 if one.mean is None else one.mean.cases,
            "says": change_text(one),
        }
        for one in hold_against(contents, board, unsound).held
    ]


def _scores(contents: Contents, board: Board) -> "list[ComparedScore]":
    from blunt_ruler.core.board.scores import score_board

    scores = score_board(contents, board).board
    labels = {row.case_id: row for row in scores.rows}
    return [
        {
            "test": labels[key].label,
            "rig": contents.rigs[rig].name,
            "score": cell.average_fps,
            "unit": cell.unit,
            "lower_is_better": labels[key].lower_is_better,
            "runs": cell.runs,
            "gain": cell.gain,
            "gain_low": cell.gain_low,
            "gain_high": cell.gain_high,
            "loss": cell.loss,
        }
        for (rig, key), cell in scores.cells.items()
    ]


def _playable(contents: Contents, board: Board, words: str) -> "list[PlayableSetting]":
    from blunt_ruler.core.board.playable import gained_words, parse_target, playable

    found = playable(contents, board, parse_target(words))
    base = {one.title: one for one in found if board.base and one.rig_id == board.base.rig_id}
    return [
        {
            "rig": contents.rigs[one.rig_id].name,
            "title": one.title,
            "case": contents.case_label(one.case_id) if one.case_id else None,
            "settings": one.settings,
            "average_fps": one.average_fps,
            "low_1_fps": one.low_fps,
            "cap_fps": one.cap_fps,
            "frame_generation": one.generation,
            "gained": gained_words(contents, one, base.get(one.title)),
        }
        for one in found
    ]


@app.command()
def composite(
    part: Annotated[
        list[str] | None, typer.Option(help="NAME=SCORE:WEIGHT; blank SCORE to recover it.")
    ] = None,
    overall: Annotated[float | None, typer.Option(help="The overall score.")] = None,
    known: Annotated[
        list[str] | None,
        typer.Option(help='A whole result, "graphics=4920; cpu=8000; overall=5200": fit weights.'),
    ] = None,
    mean: Annotated[
        str, typer.Option(help="Weighted mean of parts: harmonic, geometric or arithmetic.")
    ] = "harmonic",
    as_json: JsonFlag = False,
) -> None:
    """The overall of a synthetic test from its parts, a missing part, or the weights that fit."""
    from blunt_ruler.core.measure.composite_score import (
        ScoreFormula,
        fitting_weights,
        missing_part,
        overall_score,
        parse_known,
        parse_part,
    )

    formula = choose({one.name.lower(): one for one in ScoreFormula}, "--mean", mean)
    if bool(part) == bool(known):
        raise BadOption("--part", "give either parts or known results", "Use --part or --known")
    if known:
        fitted = fitting_weights([parse_known(words) for words in known], formula)
        if as_json:
            print_json({"weights": fitted, "mean": str(formula)})
            return
        for name, weight in fitted.items():
            print(f"{name} {weight:.3f}")
        print(f"weights by the {formula} that give each overall within 2 %")
        return
    assert part
    read = [parse_part(words) for words in part]
    parts = {name: score for name, score, _ in read if score is not None}
    weights = {name: weight for name, _, weight in read}
    recovered = None
    if len(parts) < len(weights):
        if overall is None:
            raise BadOption("--overall", "a part has no score", "Give the overall to recover it")
        recovered, score = missing_part(parts, weights, overall, formula)
        parts[recovered] = score
    value: Composite = {
        "overall": overall_score(parts, weights, formula),
        "parts": parts,
        "weights": weights,
        "recovered": recovered,
        "mean": str(formula),
    }
    if overall is not None and recovered is None:
        value["overall_given"] = overall
    if as_json:
        print_json(value)
        return
    print(f"overall {value['overall']:.1f} ({formula})")
    if recovered is not None:
        print(f"{recovered} {parts[recovered]:.1f}, recovered from the overall")
