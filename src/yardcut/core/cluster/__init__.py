"""Rounds made on other processes, here or on many machines: what is sent, who works, what is done when one is lost."""
