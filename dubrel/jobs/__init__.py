"""Long work: stages, progress, cancel."""
