"""A process kit: devices, model cards by corner, statistics."""
