"""The view of what a circuit stands in: a box, what lies in it, and what resonates there."""
