"""From one language into another: engines, terms, memory, setting in time, checks."""
