"""From one impedance to another: networks of two and three reactances, made of the parts that a kit has."""
