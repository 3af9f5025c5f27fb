"""Trained weights out of the files of others, without what made them."""
