"""Cut lists: what an editing program reads and writes of a cut."""
