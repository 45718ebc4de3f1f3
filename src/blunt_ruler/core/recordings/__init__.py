"""What a recording of a screen tells: figures read off its counters, and its pictures counted.

Everything here works on texts, numbers and small pictures that were decoded elsewhere.
"""
