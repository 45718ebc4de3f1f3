"""Open formats in and out: frame logs, tables of results, reports."""
