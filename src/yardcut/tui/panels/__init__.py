"""The panels of the main screen."""
