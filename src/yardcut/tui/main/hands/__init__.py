"""The hands: each carries out some of the actions, on the main screen or by opening a card."""
