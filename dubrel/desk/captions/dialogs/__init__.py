"""Dialogs of Captions."""
