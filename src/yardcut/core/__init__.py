"""The engine: sources, the cut language, and everything that turns a list into rows. No interface code."""
