"""Merging: two values that came from one become one that has what both changed."""
