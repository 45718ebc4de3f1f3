"""A write-up as files: page, print, text, tables, data, charts, and a bundle to check it by."""
