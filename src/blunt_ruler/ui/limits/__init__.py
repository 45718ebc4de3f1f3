"""The Limits stop: what took the frames."""
