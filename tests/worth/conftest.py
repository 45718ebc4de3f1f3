"""The shop, and its worth."""

import pytest
from shop import records, with_records

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.worth.report import derive_worth, review_against


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
        return derive_worth(contents, board, review)

    return worth_of
