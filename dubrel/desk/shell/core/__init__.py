"""What every pass works with: the session, commands, jobs, the player, work in the background."""
