"""The lines of a cut, one room a verb: its word, form, building, text, binding, effect."""
