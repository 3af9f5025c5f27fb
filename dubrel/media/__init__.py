"""Recordings: probe, decode, peaks."""
