"""What goes wrong: likely causes by plain Bayes, the next test that tells most, and a diary."""

__all__ = ["diagnosis", "diary", "knowledge", "traits"]
