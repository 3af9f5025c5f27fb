"""Pages of no pass: start, settings, versions."""
