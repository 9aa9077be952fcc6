"""The form of a file: encoding, delimiter, where the table begins and ends, its header. Plain Python."""
