"""The fields that a change changes, for the trial and for the act alike; pure."""
