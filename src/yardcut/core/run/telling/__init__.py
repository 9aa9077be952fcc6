"""A cut told to somebody who asked for it, in plain sentences."""
