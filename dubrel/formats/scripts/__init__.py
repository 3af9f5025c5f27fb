"""Texts that somebody wrote before or beside the recording: what is spoken in them, and by whom."""

SCRIPTS = "*.txt *.md *.docx *.odt *.srt *.vtt"
"""What a script may be, for those who ask for a file."""
