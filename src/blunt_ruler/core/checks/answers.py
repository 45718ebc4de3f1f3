"""One answer for all passes that a finding is about: this is the scene, or trim all."""

from collections.abc import Callable

from blunt_ruler.core.checks.findings import About, Check, Finding
from blunt_ruler.core.records.edits import Edit, put
from blunt_ruler.core.records.records import Case, Contents, Run, Trace
from blunt_ruler.core.runs.trim_run import proposed, trimmed
from blunt_ruler.core.text import count_text


def can_be_the_scene(finding: Finding) -> bool:
    """Whether the scene itself can make what was found."""
    return bool(finding.check.declared.scene)


def can_trim_all(finding: Finding) -> bool:
    """Whether one trim for each of its passes answers a finding."""
    return (
        finding.about is not About.RUN
        and finding.check is Check.MENU_LEFT_IN
        and "keep_from_s" in finding.evidence
    )


def this_is_the_scene(contents: Contents, finding: Finding) -> Edit:
    """The case remembers that its scene makes what was found; it is not asked after again."""
    case = contents.cases[contents.runs[finding.run_id].case_id]
    known = dict.fromkeys((*case.scene_has, str(finding.check)))
    return put(
        f"call it the scene of {contents.case_label(case.id)}",
        case.model_copy(update={"scene_has": tuple(known)}),
    )


def ask_again(contents: Contents) -> Edit:
    """Every case forgets what was called its scene."""
    cases = (case.model_copy(update={"scene_has": ()}) for case in answered(contents))
    return put("ask after scenes again", *cases)


def words_of(name: str) -> str:
    """A check that a case remembers, in words; its name where a later program gave it."""
    return next((check.words for check in Check if check == name), name)


def answered(contents: Contents) -> tuple[Case, ...]:
    """Cases of which something was called the scene."""
    return tuple(case for case in contents.cases.values() if case.scene_has)


def trim_all(contents: Contents, finding: Finding, trace_of: Callable[[str], Trace]) -> Edit:
    """Every pass of a finding trimmed as proposed, as one edit."""
    made: list[Run] = []
    for run_id in finding.runs:
        run = contents.runs[run_id]
        trace = trace_of(str(run.trace_sha256))
        trim = proposed(run, trace)
        if trim is not None:
            made.append(trimmed(run, trace, trim))
    return put(f"trim {count_text(len(made), 'pass', 'passes')}", *made)
