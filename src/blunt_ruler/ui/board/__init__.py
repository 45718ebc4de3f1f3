"""The Board: rigs × cases through lenses, the ruler for the chosen case, evidence beside it."""
