"""Recordings of a screen: decoded picture by picture, and the figures in them read."""
