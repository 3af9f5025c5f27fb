"""What is heard in place of the recording: its voice brought forward, or a text that is spoken."""
