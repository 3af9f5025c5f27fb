"""Stand-ins for what would be outside: a recognition service, a microphone."""
