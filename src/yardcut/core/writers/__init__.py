"""Writing a slice: one file per format, beside the target first and then into place."""
