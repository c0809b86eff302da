"""The die beside the drawing: where its parts stand, and how warm it is."""
