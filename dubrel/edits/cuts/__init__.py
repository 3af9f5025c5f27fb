"""Cuts of the recording: made, changed, and the project as it is in one."""
