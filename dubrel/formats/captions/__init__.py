"""Forms of captions."""
