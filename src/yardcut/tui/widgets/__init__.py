"""Widgets used by more than one panel or screen."""
