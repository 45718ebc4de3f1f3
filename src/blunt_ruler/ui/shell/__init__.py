"""The window around the stops: rail, menus, first screen, help."""
