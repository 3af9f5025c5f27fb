"""Dialogs of Wording."""
