"""The demo: an invented review of reading-room computers, its builder, and what it built."""
