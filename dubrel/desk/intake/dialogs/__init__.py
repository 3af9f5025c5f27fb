"""Dialogs of Intake."""
