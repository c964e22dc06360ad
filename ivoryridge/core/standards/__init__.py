"""Design standards: tables by design speed, their formulas, and checks of lines and profiles against them."""
