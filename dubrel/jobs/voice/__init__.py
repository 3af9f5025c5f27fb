"""Jobs on voices: brought forward, or speaking."""
