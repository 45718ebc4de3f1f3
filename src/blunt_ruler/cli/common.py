"""What every command shares: the application, JSON, and finding things in a logbook."""

from __future__ import annotations

import json
import sys
import uuid
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from blunt_ruler.cli.long_work import shown_progress, uncollected
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.folders import files_in

if TYPE_CHECKING:
    from blunt_ruler.core.records.records import Contents, Review

app = typer.Typer(
    no_args_is_help=False,
    add_completion=True,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    help="What a graphics card gained, what it lost, and what took it.",
)

JsonFlag = Annotated[bool, typer.Option("--json", help="Print JSON for other programs.")]
ReviewName = Annotated[str | None, typer.Option("--review", help="Which review of the logbook.")]
SkipBadRows = Annotated[bool, typer.Option(help="Use the other rows of a log with bad ones.")]


class BadOption(UserFixable):
    """An option that cannot be used as given."""


def pair_in(option: str, words: str, why: str, form: str) -> tuple[str, str]:
    """The two sides of “one=other”; BadOption says why other words are none, and their form."""
    one, mark, other = words.partition("=")
    if not mark or not one.strip() or not other.strip():
        raise BadOption(option, f"“{words}” {why}", f"Write “{form}”")
    return one.strip(), other.strip()


@contextmanager
def logs_in(given: Sequence[Path]) -> Iterator[tuple[Path, ...]]:
    """Logs as they were given, and those of folders; where all goes well it is said at the end how
    many files of these are none.
    """
    found = files_in(given)
    yield found.files
    if found.left:
        print(found.left_words, file=sys.stderr)


def new_id() -> str:
    """An id that no other record has."""
    return uuid.uuid4().hex


FORMAT_VERSION = 1  # of every JSON document; raised where a key changes its meaning or goes


def print_json(value: Any) -> None:
    """Print a document as strict JSON; a NaN in it is a bug and raises.

    An object carries its `format_version`. A list has no place for it and stays a list for the
    scripts that read it as one: its schema states the version.
    """
    if isinstance(value, dict):
        value = {"format_version": FORMAT_VERSION, **value}
    print(json.dumps(value, indent=2, ensure_ascii=False, allow_nan=False))


def read_logbook(path: Path, review_name: str | None) -> tuple[Contents, Review]:
    """Contents and one review of a logbook, the first by default."""
    from blunt_ruler.core.records.review_edits import first_review
    from blunt_ruler.logbook import Logbook

    with Logbook.reading(path) as book, uncollected(), shown_progress() as step:
        contents = book.contents(step)
    if book.set_apart:
        more = f" and {len(book.set_apart) - 1} more" if len(book.set_apart) > 1 else ""
        print(f"Left out because it cannot be read: {book.set_apart[0]}{more}", file=sys.stderr)
    reviews = [*contents.reviews.values()] or [first_review(lambda: "")]
    if review_name is None:
        return contents, reviews[0]
    found = next((one for one in reviews if one.name.lower() == review_name.lower()), None)
    if found is None:
        raise BadOption(
            "--review",
            f"there is no review “{review_name}”",
            f"The reviews are: {', '.join(one.name for one in reviews)}",
        )
    return contents, found


def rig_id(contents: Contents, review: Review, name: str, *, anywhere: bool = False) -> str:
    """Id of a rig by its name or id: of the review, or of the whole logbook."""
    rigs = (
        list(contents.rigs.values())
        if anywhere
        else [contents.rigs[seat.rig_id] for seat in review.seats]
    )
    found = next((rig for rig in rigs if name.lower() in (rig.name.lower(), rig.id)), None)
    if found is None:
        place = "the logbook" if anywhere else f"the review “{review.name}”"
        raise BadOption(
            "rig",
            f"no rig named “{name}” in {place}",
            f"The rigs are: {', '.join(rig.name for rig in rigs)}",
        )
    return found.id


def choose(known: dict[str, Any], option: str, name: str) -> Any:
    """The value under a name, whatever its case; BadOption lists the names."""
    found = next((value for key, value in known.items() if key.lower() == name.lower()), None)
    if found is None:
        raise BadOption(option, f"there is no “{name}”", f"Choose one of {', '.join(known)}")
    return found
