"""The room of a pass: captions."""
