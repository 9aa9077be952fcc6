"""The demo yard: everything about Harrowmere is made up, and made from a seed."""
