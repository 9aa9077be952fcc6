"""The rack: every column in one list, to be looked at, chosen, put in order and renamed."""
