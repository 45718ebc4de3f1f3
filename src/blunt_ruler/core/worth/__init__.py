"""What each rig costs, draws, weighs and sounds like, against what it gains.

Nothing is invented: an unknown stays unknown and says what it blocks.
"""

__all__ = [
    "alternatives",
    "answers",
    "audiences",
    "comparing",
    "costs",
    "figures",
    "frames",
    "money",
    "noise",
    "report",
    "running",
    "sentences",
    "verdict",
]
