"""What each kind of line does to the rows, and why it removed a row: one room a verb, as in the language."""
