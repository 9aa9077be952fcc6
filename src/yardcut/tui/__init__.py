"""The app: screens that compose and route, panels and widgets that draw, one bridge to the core."""
