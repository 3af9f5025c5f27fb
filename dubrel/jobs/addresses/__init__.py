"""Jobs on what stands at an address."""
