"""Writing all files at once, and never over a file that is not Aksara's own."""
