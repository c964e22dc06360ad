"""Files as they come: read, looked at, measured lines."""
