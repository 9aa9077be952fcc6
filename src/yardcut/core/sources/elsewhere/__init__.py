"""Sources that are no files: addresses, what stands for them here, and what is fetched of them."""
