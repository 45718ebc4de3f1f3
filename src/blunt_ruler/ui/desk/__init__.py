"""The desk, what lies on it, and what every stop is built on."""
