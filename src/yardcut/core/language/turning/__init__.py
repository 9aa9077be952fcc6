"""What keys turn in a line: its number, the ways of its order, a value made a dial."""
