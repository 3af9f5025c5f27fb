"""The pass Cut."""
