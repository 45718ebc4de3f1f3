"""`python -m blunt_ruler` is the same as the `blunt-ruler` command."""

from blunt_ruler.cli import main

main()
