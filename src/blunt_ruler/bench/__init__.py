"""Devices: the simulated bench that stands in for a lab."""
