"""The Python face: tables and cuts as values, for programs and notebooks. ``yardcut`` hands its names on."""
