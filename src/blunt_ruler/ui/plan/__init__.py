"""Plan: the matrix, the order with the fewest swaps, the clock, and what to give up."""
