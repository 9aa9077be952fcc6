"""How much a line may hold, as docs/language.md has it; apart, since the prompt asks before a grammar is loaded."""

MOST_CHARACTERS = 100_000
"""Of one line of a cut."""
