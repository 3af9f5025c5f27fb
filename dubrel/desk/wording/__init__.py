"""The room of a pass: wording."""
