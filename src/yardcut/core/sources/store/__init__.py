"""The store of a source: written column by column while it is read, kept in the user's cache."""
