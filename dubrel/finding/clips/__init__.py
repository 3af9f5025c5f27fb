"""Passages worth sharing: found, weighed, named."""
