"""Slices: a family's characters in several files, of which a page fetches those that it needs (CSS Fonts 4, section
4.5, "unicode-range").

`interactions` asks the font which characters it draws otherwise beside each other, `togetherness` keeps these in one
slice, `views` says what pages show, and `cutting` looks for the cut that makes an average page view cheapest.
"""
