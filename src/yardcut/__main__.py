"""``python -m yardcut`` is the same as ``yardcut``."""

from yardcut.cli.main import main

if __name__ == "__main__":
    main()
