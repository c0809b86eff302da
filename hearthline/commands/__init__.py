"""The commands beside the window: each is one file with a `run` of its options that gives the exit status."""
