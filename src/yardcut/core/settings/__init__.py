"""What a user sets for every table: the place and bound of the cache, memory, threads, theme, marks, keys.

None of it changes which rows a cut takes, or what is written of them.
"""
