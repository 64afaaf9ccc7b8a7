"""Files are written all at once, and never over what is not Aksara's own."""
