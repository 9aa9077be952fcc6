"""How much a line may hold, as docs/language.md has it; apart, since the prompt asks before a grammar is loaded."""

MOST_CHARACTERS = 1_000_000
"""Of one line of a cut."""
MOST_TYPED_CHARACTERS = 100_000
"""Of one that is written at the prompt, where each key has it read anew."""
