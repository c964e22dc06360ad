"""Cross-section templates: parts, placing rules, and the solver that places all nodes at all stations at once."""
