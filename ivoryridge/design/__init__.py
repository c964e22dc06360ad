"""The kept design: what persons decided, as rows; everything else is derived from it and never stored as truth."""
