"""The room of a pass: translation."""
