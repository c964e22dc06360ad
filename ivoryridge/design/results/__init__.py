"""What follows from the inputs, each a pure function of its needs, kept by key."""
