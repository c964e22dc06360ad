"""Open formats in and out. Every reader treats its file as hostile; none opens a path."""
