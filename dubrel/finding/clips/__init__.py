"""Passages worth passing on: found, weighed, named."""
