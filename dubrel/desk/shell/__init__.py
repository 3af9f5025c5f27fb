"""The window without any pass: what all passes stand on."""
