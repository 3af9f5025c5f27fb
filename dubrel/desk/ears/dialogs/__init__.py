"""Dialogs of what is heard."""
