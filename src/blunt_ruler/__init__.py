"""Blunt Ruler: what a graphics card gained, what it lost, and what took it."""

__version__ = "0.1.0"
