"""A cut as one statement of standard SQL (ISO/IEC 9075), where that gives the same rows."""
