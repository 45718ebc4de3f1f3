"""The Worth stop: prices, value, power and noise, and for whom it makes sense."""
