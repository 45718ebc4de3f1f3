"""Help pages, shipped with the application: each stop, figures, checks, formats."""
