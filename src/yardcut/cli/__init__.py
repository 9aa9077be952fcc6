"""The command line: one file a command, each importing what it needs only when it is called."""
