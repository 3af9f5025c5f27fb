"""The room of a pass: intake."""
