"""The room of a pass: release."""
