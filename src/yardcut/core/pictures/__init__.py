"""Pictures of what a cut shows: bars, as data and as files."""
