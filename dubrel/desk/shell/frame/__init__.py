"""The window and what stands in it whatever the pass: rail, booth, strip, footer, finder."""
