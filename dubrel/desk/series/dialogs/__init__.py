"""The dialogs of a series."""
