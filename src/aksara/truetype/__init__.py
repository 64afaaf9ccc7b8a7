"""TrueType outlines as bytes: glyph data and their offsets, packed points, composite glyphs.

Ground for the tables 'glyf' and 'loca', for the WOFF2 transform of both, and for the comparison of what was written:
all three read and write outlines by this one codec (OpenType 1.9.1, 'glyf', 'loca').
"""
