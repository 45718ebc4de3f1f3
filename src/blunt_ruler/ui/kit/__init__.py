"""Widgets, tables, forms, pictures and the theme, of which every stop is made."""
