"""What a site gets besides the fonts: their faces for the style sheet, the proof, the user's templates, the archive."""
