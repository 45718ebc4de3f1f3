"""The shop, and its worth."""

import pytest
from shop import records, with_records

from blunt_ruler.core.board import build_board
from blunt_ruler.core.models import Contents
from blunt_ruler.core.worth.report import review_against, work_out_worth


@pytest.fixture
def shop():
    """The shop's contents."""
    return with_records(Contents.empty(), *records())


@pytest.fixture
def worth_of():
    """The worth of the first review of some contents."""

    def worth_of(contents):
        review = next(iter(contents.reviews.values()))
        board = build_board(contents, review_against(contents, review))
        return work_out_worth(contents, board, review)

    return worth_of
