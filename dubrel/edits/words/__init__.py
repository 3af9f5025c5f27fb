"""Verbs of words: each keeps the times that can be kept."""
