"""The arithmetic of the trade: calculators that answer with ±, forwards and backwards."""
