"""Pure computation: numpy arrays and frozen records in, frozen records out.

Read the packages in this order: ``geometry``, ``terrain``, ``alignment``, ``section``, ``corridor``,
``earthwork``; then the rim, which reads the others: ``exchange``, ``sheets``. Nothing here knows the web,
the data base, the clock or a path. Inside core lengths are metres, angles radians, grades ratios.
"""
