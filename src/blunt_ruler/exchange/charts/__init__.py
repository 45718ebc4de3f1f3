"""Charts for pages, videos and slides, drawn from core values; the same inputs, the same bytes."""
