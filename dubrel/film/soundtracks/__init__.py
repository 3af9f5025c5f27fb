"""Sound that is written: of cuts, copied, brought forward, spoken."""
