"""Dialogs of Voices, and how a speaker is drawn in lists."""
