"""The commands, one a file."""
