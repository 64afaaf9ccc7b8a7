"""What would come of other choices, found out by making it."""
