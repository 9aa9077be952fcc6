"""Cards to look with: a row, all columns, reasons, two sides beside each other, pictures, the page of keys."""
