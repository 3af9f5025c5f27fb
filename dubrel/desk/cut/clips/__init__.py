"""Clips in Cut: found, explained, made, released."""
