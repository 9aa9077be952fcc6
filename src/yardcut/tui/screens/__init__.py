"""Full screens and dialogs."""
