"""A font and a recipe become bytes, which are kept, and read again before they count."""
