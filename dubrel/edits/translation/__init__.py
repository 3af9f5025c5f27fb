"""Verbs of translated tracks."""
