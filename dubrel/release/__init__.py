"""Deliverables: their forms, kits, names of files, writing with read-back."""
