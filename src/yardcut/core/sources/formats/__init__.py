"""Reading the formats a source may have, each behind the same few methods."""
