"""Several cameras in Cut: all of them at the playhead, and which is shown when."""
