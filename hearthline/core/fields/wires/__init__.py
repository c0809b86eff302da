"""Bond wires and vias: partial inductances of straight pieces, and what they make between their ends."""
