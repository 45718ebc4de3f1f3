"""What each rig costs, draws, weighs and sounds like, against what it gains.

Nothing is invented: an unknown stays unknown and says what it blocks.
"""
