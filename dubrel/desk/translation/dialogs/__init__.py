"""Dialogs of Translation."""
