"""What is done with a series: how its episodes stand, search over all of them, checks over all."""
