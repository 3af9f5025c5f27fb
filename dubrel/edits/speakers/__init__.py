"""Verbs of speakers: who says what."""
