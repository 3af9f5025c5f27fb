"""The voice brought forward while one listens: computed ahead, mixed as it plays, drawn on the strip."""
