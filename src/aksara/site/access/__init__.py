"""How files and servers of a site are reached, within bounds."""
