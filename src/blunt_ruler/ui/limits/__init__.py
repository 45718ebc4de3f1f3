"""The Limits stop."""
