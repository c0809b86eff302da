"""The equations of a circuit and their solution: lowering, Newton, time steps, small signals."""
