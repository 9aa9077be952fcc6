"""The main screen: panels put together, and beside it what reads, counts, looks, saves, writes and asks."""
