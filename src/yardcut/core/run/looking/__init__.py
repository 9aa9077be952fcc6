"""What is looked up beside the lines: texts found, two sides compared, pictures, values for dials."""
