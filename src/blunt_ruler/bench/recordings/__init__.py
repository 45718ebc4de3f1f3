"""Recordings of a screen as the bench makes them: a moving scene, and counters over it."""
