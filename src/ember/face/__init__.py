"""The face as it was cut: a photograph framed, lit, read in bands, and held against the face that was promised.

Pure functions on arrays; colours and bands are those of the drawn face (palette).
"""
