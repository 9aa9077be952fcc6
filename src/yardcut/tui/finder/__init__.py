"""Finding an action, a form, a function or a column by any word of the trade, and doing it."""
