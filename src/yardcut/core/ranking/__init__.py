"""Order and draw by one mechanism: keys as unsigned bits, sorted, or taken up to a threshold."""
