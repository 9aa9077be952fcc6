"""The cut language: layout, grammar, trees, printing, binding to a table's columns, completion, errors with a mend."""
