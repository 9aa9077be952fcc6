"""What a line means for the columns it names: binding, kinds, functions."""
