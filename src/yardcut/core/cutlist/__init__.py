"""The cutting list: its model, its file, and going back and forth in its history."""
