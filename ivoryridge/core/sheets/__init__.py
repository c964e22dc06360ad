"""Sheets: display lists in paper millimetres, and three writers for them: SVG, PDF, DXF."""
