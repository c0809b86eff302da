"""What is between contacts on a substrate: a network of resistances, and of capacitances beside them."""
