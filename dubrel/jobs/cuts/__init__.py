"""Jobs of cuts and clips."""
