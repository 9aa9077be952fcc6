"""Going over the rows: parts of a table, rounds of scan, merge and finish, and the runner that makes them."""
