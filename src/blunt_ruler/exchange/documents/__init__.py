"""Documents: the report, run sheets, pre-flight sheets, and how they are set."""
