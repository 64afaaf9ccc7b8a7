"""Penyu Sans, the typeface of the demo: skeletons drawn with an elliptical pen, and what makes a font of them."""
