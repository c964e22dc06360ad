"""What the page is told, as records: one for each thing that is answered. They state names and types only; nothing is validated when
an answer is sent. The API's description and the page's types are made of them.

Lengths m, grades and slopes m/m, offsets + right, radii signed + right.
"""
