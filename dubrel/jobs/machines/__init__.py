"""Several machines: episodes and passages as tasks of the distributed scheduler."""
