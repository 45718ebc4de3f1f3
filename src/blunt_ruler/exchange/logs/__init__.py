"""Frame logs: from bytes to columns, and which of them are frame times."""
