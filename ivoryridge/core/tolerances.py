"""Named tolerances, each with its unit and its reason."""

COINCIDENT = 1e-6  # m; two computed places are one: far below any survey, far above rounding
SAME_SURVEY_POINT = 1e-3  # m in plan; instruments do not resolve less, files print millimetres
SAME_LEVEL = 1e-3  # m; a duplicate point with a greater difference is reported
CROSSING_LEVELS = 0.02  # m; breaklines that cross with more than this are reported (common practice, no source)
SAME_STATION = 1e-4  # m; key stations nearer than this are one section
FLAT_CURVATURE = 1e-12  # 1/m; below it an arc of any real length is a straight
SHORTEST_TRANSITION = 1e-3  # m; a shorter one has no direction of its own in a file that prints millimetres
FITS = 1e-4  # m; tangents that overlap by less than this still fit, the rest is rounding of typed values
