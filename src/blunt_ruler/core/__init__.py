"""Values and computation: functions over immutable values.

No Qt, no files, no clock, and no randomness without a seed, so every figure can be
tested and recomputed on its own.
"""
