"""Verbs of captions."""
