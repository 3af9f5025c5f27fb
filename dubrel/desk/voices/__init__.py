"""The room of a pass: voices."""
