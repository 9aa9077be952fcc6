"""One file a format that slices are written in."""
