"""How much a finding matters, wherever findings are made."""

from blunt_ruler.core.values import Ranked


class Severity(Ranked):
    """What blocks must be mended first, a caution looked at, a note known."""

    BLOCKING = "blocking"
    CAUTION = "caution"
    NOTE = "note"
