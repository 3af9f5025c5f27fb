"""What every part may use: files, text, times, errors."""
