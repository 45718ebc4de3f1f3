"""The window: views that show values from the core and send edits back. They never compute."""
