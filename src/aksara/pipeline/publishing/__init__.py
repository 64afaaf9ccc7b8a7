"""Everything a build makes besides fonts: faces for the style sheet, the proof, templates, the archive."""
