"""Recordings into words: here, by channel, live, at a service; a whole file, a second reading."""
