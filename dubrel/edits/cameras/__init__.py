"""Cameras: which there are, which is shown when, and a proposal that shows who speaks."""
