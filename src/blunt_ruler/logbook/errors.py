"""Why a logbook cannot be opened or written, each with what to do about it."""

from blunt_ruler.core.errors import UserFixable


class NotALogbook(UserFixable):
    """The file is something else, or is not there."""


class NewerLogbook(UserFixable):
    """The file was written by a newer version and is left as it is."""


class DamagedLogbook(UserFixable):
    """The file is a logbook whose content cannot be trusted."""


class LogbookBusy(UserFixable):
    """The file cannot be written now: locked, read-only, or the disk is full."""
