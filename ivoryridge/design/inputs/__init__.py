"""Rows to core records: the network of a project's objects, and a trial laid over it."""
