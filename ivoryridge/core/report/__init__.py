"""Reports: tables of numbers with their units, made from results; the same rows go to the screen and to CSV."""
