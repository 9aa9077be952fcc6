"""The table grid: layout and viewport as arithmetic, apart from drawing."""
