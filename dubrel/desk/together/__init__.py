"""What is done with others: merging, handing over."""
