"""What is offered at a moment: lines about a cell, a column or values, each with the rows it would leave."""
