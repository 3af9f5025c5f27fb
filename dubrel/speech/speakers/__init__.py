"""Who speaks when: voice prints, clusters, voices over each other."""
