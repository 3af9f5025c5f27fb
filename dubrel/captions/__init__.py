"""House styles, line breaking, setting words into captions, checks."""
