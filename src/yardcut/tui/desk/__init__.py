"""What the app works on: the moment of now, the desk that alone changes it, and what threads work out of a moment."""
