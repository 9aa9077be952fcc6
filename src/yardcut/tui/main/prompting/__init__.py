"""The prompt and what it is used for: writing a line, finding a text, going somewhere, answering a question."""
