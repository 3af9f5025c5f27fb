"""Voice activity, recognisers, forced alignment."""
