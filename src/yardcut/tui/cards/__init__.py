"""Cards: they lie over the main screen, work for themselves, and return what was chosen. None edits anything."""
