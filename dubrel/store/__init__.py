"""Projects on the disk: the .dubrel file."""
