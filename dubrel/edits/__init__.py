"""The verbs: pure functions from one project to the next, one file a pass."""
