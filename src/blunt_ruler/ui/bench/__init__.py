"""Bench: parts and rigs, the link ladder, fit and power, pre-flight, and a look at the machine."""
