"""The machine that keeps looking for what ends, freezes or damages something: ``make long``."""
