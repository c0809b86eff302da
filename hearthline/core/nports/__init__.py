"""Networks known by their waves: what files of S-parameters hold, and what may be made of it."""
